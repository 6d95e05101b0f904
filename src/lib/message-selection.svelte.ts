import { SvelteMap } from 'svelte/reactivity';

/** What the selection has to know of a message. */
interface Selectable<S extends string> {
	id: number;
	bytes: number;
	state: S;
}

/**
 * The selection on a sheet of messages: some by number, across the pages of one search, or all that match except some.
 */
export class MessageSelection<S extends string> {
	#selected = new SvelteMap<number, Selectable<S>>();
	/** Left out of everything. */
	#except = new SvelteMap<number, Selectable<S>>();
	#isEverything = $state(false);

	/** Whether all matching messages are selected, also on other pages, except those left out. */
	get isEverything(): boolean {
		return this.#isEverything;
	}

	/** The selected messages; none if all that match are selected. */
	get messages(): Selectable<S>[] {
		return [...this.#selected.values()];
	}

	/** Their numbers. */
	get ids(): number[] {
		return [...this.#selected.keys()];
	}

	/** The messages left out of all that match. */
	get except(): Selectable<S>[] {
		return [...this.#except.values()];
	}

	/** Whether nothing is selected. */
	get isEmpty(): boolean {
		return this.#selected.size === 0 && !this.#isEverything;
	}

	/** Whether a message is selected. */
	has(id: number): boolean {
		return this.#isEverything ? !this.#except.has(id) : this.#selected.has(id);
	}

	/** Selects messages, or clears them if all of them are selected: those of a page, or of a row. */
	toggle(...messages: readonly Selectable<S>[]): void {
		const isIn = messages.every(({ id }) => this.has(id));
		for (const message of messages) this.#put(message, !isIn);
	}

	/** Adds messages. */
	add(messages: readonly Selectable<S>[]): void {
		for (const message of messages) this.#put(message, true);
	}

	#put(message: Selectable<S>, isIn: boolean): void {
		const map = this.#isEverything ? this.#except : this.#selected;
		if (isIn !== this.#isEverything) map.set(message.id, message);
		else map.delete(message.id);
	}

	/** Selects all that match; the second time clears the selection. */
	toggleEverything(): void {
		const isEverything = !this.#isEverything;
		this.clear();
		this.#isEverything = isEverything;
	}

	/** Takes a message out of the selection, as it has left the sheet. */
	remove(id: number): void {
		this.#selected.delete(id);
		this.#except.delete(id);
	}

	/** Clears the selection. */
	clear(): void {
		this.#selected.clear();
		this.#except.clear();
		this.#isEverything = false;
	}

	/**
	 * Clears the selection as it is sent: what is selected from now on belongs to the next decision.
	 *
	 * @returns selects it again, for a decision that is refused
	 */
	take(): () => void {
		const [before, except, wasEverything] = [this.messages, this.except, this.#isEverything];
		this.clear();
		return () => {
			this.#isEverything = wasEverything;
			for (const message of before) this.#selected.set(message.id, message);
			for (const message of except) this.#except.set(message.id, message);
		};
	}
}
