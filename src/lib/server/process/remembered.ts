import { deserialize, serialize } from 'node:v8';
import { type Context, today } from '../context/index.ts';
import { changeNumber } from '../database/index.ts';

/* Answers of whole pages; a larger one is asked for too seldom. */
const MOST_BYTES = 16_000_000;
const LARGEST_ANSWER = 1_000_000;

/**
 * The last answers to questions that read much mail, each true until the file changes or the day ends: a page that somebody
 * goes back to does not count everything anew. After a change none is kept: they may name what was destroyed.
 */
export class Remembered {
	#answers = new Map<string, Buffer>();
	#bytes = 0;
	#changeNumber: number | undefined;

	/** How many answers are kept. */
	get size(): number {
		return this.#answers.size;
	}

	/** Answers a question, or gives its last answer to the same person while that is still true. */
	async answer(context: Context, name: string, input: unknown, ask: () => unknown): Promise<unknown> {
		// read before the question is asked: what changes meanwhile has another number
		const number = await changeNumber(context.db);
		this.#forgetUnless(number);
		const key = JSON.stringify([today(context), context.actor, name, input]);
		const known = this.#answers.get(key);
		if (known) return deserialize(known);
		const answer = await ask();
		if (number === this.#changeNumber) this.#keep(key, serialize(answer));
		return answer;
	}

	#forgetUnless(number: number): void {
		if (number === this.#changeNumber) return;
		this.#answers.clear();
		this.#bytes = 0;
		this.#changeNumber = number;
	}

	#keep(key: string, answer: Buffer): void {
		if (answer.length > LARGEST_ANSWER || this.#answers.has(key)) return;
		this.#answers.set(key, answer);
		this.#bytes += answer.length;
		for (const [oldest, { length }] of this.#answers) {
			if (this.#bytes <= MOST_BYTES) break;
			this.#answers.delete(oldest);
			this.#bytes -= length;
		}
	}
}
