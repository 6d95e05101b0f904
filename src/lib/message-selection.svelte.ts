import { SvelteMap } from 'svelte/reactivity';

/** What the selection has to know of a message. */
interface Selectable<S extends string> {
	id: number;
	bytes: number;
	state: S;
}

/** The selection on a sheet of messages: some by number, across the pages of one search, or all that match. */
export class MessageSelection<S extends string> {
	#selected = new SvelteMap<number, Selectable<S>>();
	#isEverything = $state(false);

	/** Whether all matching messages are selected, also on other pages. */
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

	/** Whether nothing is selected. */
	get isEmpty(): boolean {
		return this.#selected.size === 0 && !this.#isEverything;
	}

	/** Whether a message is selected. */
	has(id: number): boolean {
		return this.#isEverything || this.#selected.has(id);
	}

	/** Selects a message, or clears it. */
	toggle(message: Selectable<S>): void {
		this.#isEverything = false;
		if (!this.#selected.delete(message.id)) this.#selected.set(message.id, message);
	}

	/** Adds messages. */
	add(messages: readonly Selectable<S>[]): void {
		for (const message of messages) this.#selected.set(message.id, message);
	}

	/** Selects the messages of a page, or clears them if all of them are selected. */
	togglePage(messages: readonly Selectable<S>[]): void {
		if (messages.every(({ id }) => this.#selected.has(id))) for (const { id } of messages) this.#selected.delete(id);
		else this.add(messages);
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
	}

	/** Clears the selection. */
	clear(): void {
		this.#selected.clear();
		this.#isEverything = false;
	}

	/**
	 * Clears the selection as it is sent: what is selected from now on belongs to the next decision.
	 *
	 * @returns selects it again, for a decision that is refused
	 */
	take(): () => void {
		const [before, wasEverything] = [this.messages, this.#isEverything];
		this.clear();
		return () => {
			this.add(before);
			this.#isEverything = wasEverything;
		};
	}
}
