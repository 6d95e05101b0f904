import { SvelteMap } from 'svelte/reactivity';
import type { Lot } from '../core/lots/lots.ts';
import type { Weight } from '../core/weigh/tree.ts';

function sumOf(parts: Iterable<{ messages?: number; bytes: number }>): Weight {
	const sums = { messages: 0, bytes: 0 };
	for (const { messages = 1, bytes } of parts) {
		sums.messages += messages;
		sums.bytes += bytes;
	}
	return sums;
}

/** What is chosen on a sheet of lots: lots one by one, or all that match, save some; single messages left out or added. */
export class LotsChoice {
	#total: () => { lots: number } & Weight;
	/** By their keys. */
	#chosen = new SvelteMap<string, Lot>();
	#except = new SvelteMap<string, Lot>();
	/** By the numbers of the messages, with what each weighs. */
	#without = new SvelteMap<number, { bytes: number }>();
	#added = new SvelteMap<number, { bytes: number }>();
	/** All that match are meant, not only what is shown. */
	everything = $state(false);

	/**
	 * @param total tells how much matches on the sheet
	 */
	constructor(total: () => { lots: number } & Weight) {
		this.#total = total;
	}

	/** How much is chosen. */
	sums = $derived.by(() => {
		const lots = sumOf(this.everything ? this.#except.values() : this.#chosen.values());
		const out = sumOf(this.#without.values());
		const more = sumOf(this.#added.values());
		const total = this.#total();
		const base = this.everything ? { messages: total.messages - lots.messages, bytes: total.bytes - lots.bytes } : lots;
		return {
			messages: base.messages - out.messages + more.messages,
			bytes: base.bytes - out.bytes + more.bytes,
			lots: this.everything ? total.lots - this.#except.size : this.#chosen.size
		};
	});

	/** What is chosen, as it is asked for. */
	wish = $derived.by(() => ({
		...(this.everything ? {} : { keys: [...this.#chosen.keys()] }),
		withoutKeys: this.everything ? [...this.#except.keys()] : [],
		without: [...this.#without.keys()],
		items: [...this.#added.keys()],
		labels: this.everything || this.#chosen.size > 3 ? [] : [...this.#chosen.values()].map(({ label }) => label)
	}));

	/** Whether a lot is chosen. */
	has(lot: Lot): boolean {
		return this.everything ? !this.#except.has(lot.key) : this.#chosen.has(lot.key);
	}

	/** Chooses a lot, or chooses it no longer. */
	toggle(lot: Lot): void {
		const map = this.everything ? this.#except : this.#chosen;
		if (map.has(lot.key)) map.delete(lot.key);
		else map.set(lot.key, lot);
	}

	/** Whether a message of an opened lot is chosen. */
	hasItem(lot: Lot, item: { id: number }): boolean {
		return this.has(lot) ? !this.#without.has(item.id) : this.#added.has(item.id);
	}

	/** Leaves a message of a chosen lot out, or adds one of a lot that is not chosen; or no longer does. */
	toggleItem(lot: Lot, { id, bytes }: { id: number; bytes: number }): void {
		const map = this.has(lot) ? this.#without : this.#added;
		if (map.has(id)) map.delete(id);
		else map.set(id, { bytes });
	}

	/** Chooses all that match; again: nothing. */
	toggleAll(): void {
		const all = !this.everything;
		this.clear();
		this.everything = all;
	}

	/** Chooses nothing. */
	clear(): void {
		for (const map of [this.#chosen, this.#except, this.#without, this.#added]) map.clear();
		this.everything = false;
	}

	/**
	 * Chooses nothing, as what was chosen is being decided on: whatever is chosen from now on is for the next decision.
	 *
	 * @returns chooses it again, where it could not be decided on and nothing else has been chosen meanwhile
	 */
	take(): () => void {
		const { everything } = this;
		const [chosen, except, without, added] = [
			[...this.#chosen],
			[...this.#except],
			[...this.#without],
			[...this.#added]
		];
		this.clear();
		return () => {
			if (this.sums.lots > 0 || this.sums.messages > 0) return;
			this.everything = everything;
			for (const [key, lot] of chosen) this.#chosen.set(key, lot);
			for (const [key, lot] of except) this.#except.set(key, lot);
			for (const [id, item] of without) this.#without.set(id, item);
			for (const [id, item] of added) this.#added.set(id, item);
		};
	}
}
