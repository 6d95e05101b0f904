/** A source of numbers that are the same for the same seed. */
export class Dice {
	#state: number;

	constructor(seed: number) {
		this.#state = seed >>> 0;
	}

	/** A number from 0 to below 1 (mulberry32, public domain). */
	next(): number {
		this.#state = (this.#state + 0x6d2b79f5) >>> 0;
		let t = this.#state;
		t = Math.imul(t ^ (t >>> 15), t | 1);
		t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
		return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
	}

	/** A whole number from `low` to `high`, both included. */
	between(low: number, high: number): number {
		return low + Math.floor(this.next() * (high - low + 1));
	}

	/** One of them. */
	pick<T>(choices: readonly T[]): T {
		return choices[this.between(0, choices.length - 1)] as T;
	}

	/** True with this probability. */
	chance(probability: number): boolean {
		return this.next() < probability;
	}
}
