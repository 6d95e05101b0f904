import { SvelteMap } from 'svelte/reactivity';
import type { SheetRows } from '$lib/server/lots/index.ts';
import type { Lot } from '../core/lots/lots.ts';

const PART = 200;

/** The rows of a sheet of lots, loaded in parts as they come into sight. */
export class LotsParts {
	#parts = new SvelteMap<number, Lot[]>();
	// internal, so not reactive
	// eslint-disable-next-line svelte/prefer-svelte-reactivity
	#asking = new Map<number, Promise<void>>();
	#address: () => URL;
	/* Counts the sheets: an answer for an earlier one is ignored. */
	#sheet = 0;

	/**
	 * @param address tells where parts of the sheet are asked for
	 */
	constructor(address: () => URL) {
		this.#address = address;
	}

	/** Starts another sheet with its first part. */
	begin(first: SheetRows): void {
		this.#sheet++;
		this.#parts.clear();
		this.#asking.clear();
		this.#parts.set(0, first.lots);
	}

	/** The lot in a row; undefined until its part is loaded. */
	at(index: number): Lot | undefined {
		return this.#parts.get(Math.floor(index / PART))?.[index % PART];
	}

	/** Loads the missing rows of a range. */
	async ask(from: number, to: number): Promise<void> {
		for (let part = Math.floor(from / PART); part <= Math.floor(to / PART); part++)
			if (!this.#parts.has(part)) await this.#askPart(part);
	}

	#askPart(part: number): Promise<void> {
		const asking =
			this.#asking.get(part) ?? this.#fetchPart(part, this.#sheet).finally(() => this.#asking.delete(part));
		this.#asking.set(part, asking);
		return asking;
	}

	async #fetchPart(part: number, sheet: number): Promise<void> {
		const address = this.#address();
		address.searchParams.set('offset', String(part * PART));
		address.searchParams.set('limit', String(PART));
		// a failed part is requested again when its rows are next in sight
		const answer = await fetch(address).catch(() => undefined);
		if (!answer?.ok) return;
		const { lots } = (await answer.json()) as SheetRows;
		if (sheet === this.#sheet) this.#parts.set(part, lots);
	}
}
