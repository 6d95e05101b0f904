import { Dice } from '../demo/random.ts';

const SYLLABLES =
	'ba be bo da de di fa fe ga go ka ke ki la le li lo ma me mo na ne no pa pe po ra re ri ro sa se so ta te to va ve vi'.split(
		' '
	);

/** Words that occur as often as words do: the n-th one n times as seldom as the first (Zipf). */
export class Vocabulary {
	readonly words: string[];
	#cumulated: Float64Array;

	constructor(size: number, dice: Dice) {
		const made = new Set<string>();
		while (made.size < size) made.add(Array.from({ length: dice.between(2, 4) }, () => dice.pick(SYLLABLES)).join(''));
		this.words = [...made];
		this.#cumulated = new Float64Array(size);
		let sum = 0;
		for (let rank = 0; rank < size; rank++) this.#cumulated[rank] = sum += 1 / (rank + 1);
	}

	/** A word, the frequent ones more often. */
	pick(dice: Dice): string {
		const wanted = dice.next() * (this.#cumulated.at(-1) as number);
		let low = 0;
		let high = this.words.length - 1;
		while (low < high) {
			const middle = (low + high) >> 1;
			if ((this.#cumulated[middle] as number) < wanted) low = middle + 1;
			else high = middle;
		}
		return this.words[low] as string;
	}

	/** So many words, in lines. */
	text(dice: Dice, count: number): string {
		let text = '';
		for (let at = 0; at < count; at++) text += this.pick(dice) + (at % 11 === 10 ? '\n' : ' ');
		return text;
	}
}
