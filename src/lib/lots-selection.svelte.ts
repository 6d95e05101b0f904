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

/**
 * The selection on a sheet of lots: some lots, or all matching ones except some; single messages left out or added.
 */
export class LotsSelection {
	#total: () => { lots: number } & Weight;
	/** By their keys. */
	#selected = new SvelteMap<string, Lot>();
	#except = new SvelteMap<string, Lot>();
	/** By message number, with each one's size. */
	#without = new SvelteMap<number, { bytes: number }>();
	#added = new SvelteMap<number, { bytes: number }>();
	/** All matching lots, also those not shown. */
	everything = $state(false);

	/**
	 * @param total tells how much matches on the sheet
	 */
	constructor(total: () => { lots: number } & Weight) {
		this.#total = total;
	}

	/** The size of the selection. */
	sums = $derived.by(() => {
		const lots = sumOf(this.everything ? this.#except.values() : this.#selected.values());
		const out = sumOf(this.#without.values());
		const more = sumOf(this.#added.values());
		const total = this.#total();
		const base = this.everything ? { messages: total.messages - lots.messages, bytes: total.bytes - lots.bytes } : lots;
		return {
			messages: base.messages - out.messages + more.messages,
			bytes: base.bytes - out.bytes + more.bytes,
			lots: this.everything ? total.lots - this.#except.size : this.#selected.size
		};
	});

	/** The selection, as it is sent to the server. */
	wish = $derived.by(() => ({
		...(this.everything ? {} : { keys: [...this.#selected.keys()] }),
		withoutKeys: this.everything ? [...this.#except.keys()] : [],
		without: [...this.#without.keys()],
		items: [...this.#added.keys()],
		labels: this.everything || this.#selected.size > 3 ? [] : [...this.#selected.values()].map(({ label }) => label)
	}));

	/** Whether a lot is selected. */
	has(lot: Lot): boolean {
		return this.everything ? !this.#except.has(lot.key) : this.#selected.has(lot.key);
	}

	/** Selects a lot, or clears it. */
	toggle(lot: Lot): void {
		const map = this.everything ? this.#except : this.#selected;
		if (map.has(lot.key)) map.delete(lot.key);
		else map.set(lot.key, lot);
	}

	/** Whether a message of an opened lot is selected. */
	hasItem(lot: Lot, item: { id: number }): boolean {
		return this.has(lot) ? !this.#without.has(item.id) : this.#added.has(item.id);
	}

	/** Leaves a message of a selected lot out, or adds one of another lot; the second time undoes it. */
	toggleItem(lot: Lot, { id, bytes }: { id: number; bytes: number }): void {
		const map = this.has(lot) ? this.#without : this.#added;
		if (map.has(id)) map.delete(id);
		else map.set(id, { bytes });
	}

	/** Selects all matching lots; the second time clears the selection. */
	toggleAll(): void {
		const all = !this.everything;
		this.clear();
		this.everything = all;
	}

	/** Clears the selection. */
	clear(): void {
		for (const map of [this.#selected, this.#except, this.#without, this.#added]) map.clear();
		this.everything = false;
	}

	/**
	 * Clears the selection as it is sent: what is selected from now on belongs to the next decision.
	 *
	 * @returns selects it again, unless something else has been selected meanwhile; called if the server refuses
	 */
	take(): () => void {
		const { everything } = this;
		const [selected, except, without, added] = [
			[...this.#selected],
			[...this.#except],
			[...this.#without],
			[...this.#added]
		];
		this.clear();
		return () => {
			if (this.sums.lots > 0 || this.sums.messages > 0) return;
			this.everything = everything;
			for (const [key, lot] of selected) this.#selected.set(key, lot);
			for (const [key, lot] of except) this.#except.set(key, lot);
			for (const [id, item] of without) this.#without.set(id, item);
			for (const [id, item] of added) this.#added.set(id, item);
		};
	}
}
