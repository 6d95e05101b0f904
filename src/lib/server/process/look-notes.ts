import type { Actor } from '../../../core/access/roles.ts';
import { log } from '../log.ts';
import { Refusal } from '../refusal.ts';
import type { InputOf } from './use-cases.ts';

type LookInput = InputOf<'recordOpening'>;

/* Beyond that mail is not shown any more until it can be noted who saw it. */
const MOST_WAITING = 10_000;

/**
 * Notes of who saw which mail, made before it is shown. While nothing can be written, as on a full disk, mail is shown all
 * the same: its notes wait here, with their time, and are made when the next one can be.
 */
export class LookNotes {
	#waiting: { look: LookInput; actor: Actor }[] = [];
	readonly #note: (look: LookInput, actor: Actor) => Promise<void>;

	/** @param note makes a note for good; refuses with `no-writing` where nothing can be written now */
	constructor(note: (look: LookInput, actor: Actor) => Promise<void>) {
		this.#note = note;
	}

	/** Makes a note, or lets it wait. @throws Refusal where it can neither be made nor wait */
	async record(look: LookInput, actor: Actor, now: Date): Promise<void> {
		if (look.ids.length === 0) return;
		try {
			await this.#note(look, actor);
		} catch (error) {
			const canWait = error instanceof Refusal && error.code === 'no-writing' && this.#waiting.length < MOST_WAITING;
			if (!canWait) throw error;
			this.#waiting.push({ look: { ...look, at: now.toISOString() }, actor });
			log.warn({ waiting: this.#waiting.length }, 'who saw mail could not be noted: it waits until the disk takes it');
			return;
		}
		await this.#makeWaiting();
	}

	/* What cannot be made now waits on. */
	async #makeWaiting(): Promise<void> {
		const waiting = this.#waiting;
		this.#waiting = [];
		for (const one of waiting)
			await this.#note(one.look, one.actor).catch((error: unknown) => {
				log.warn({ error }, 'who saw mail could not be noted');
				this.#waiting.push(one);
			});
	}
}
