import { SvelteMap } from 'svelte/reactivity';
import type { Lot } from '../core/lots/lots.ts';
import type { Weight } from '../core/weigh/tree.ts';

function sumOf(parts: Iterable<Weight>): Weight {
	const sums = { messages: 0, bytes: 0 };
	for (const { messages, bytes } of parts) {
		sums.messages += messages;
		sums.bytes += bytes;
	}
	return sums;
}

/**
 * The selection on a sheet of lots: some lots, or all matching ones except some.
 */
export class LotsSelection {
	#total: () => { lots: number } & Weight;
	/** By their keys. */
	#selected = new SvelteMap<string, Lot>();
	#except = new SvelteMap<string, Lot>();
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
		const total = this.#total();
		const base = this.everything ? { messages: total.messages - lots.messages, bytes: total.bytes - lots.bytes } : lots;
		return {
			...base,
			lots: this.everything ? total.lots - this.#except.size : this.#selected.size
		};
	});

	/** The selection, as it is sent to the server. */
	wish = $derived.by(() => ({
		...(this.everything ? {} : { keys: [...this.#selected.keys()] }),
		withoutKeys: this.everything ? [...this.#except.keys()] : [],
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

	/** Selects all matching lots; the second time clears the selection. */
	toggleAll(): void {
		const all = !this.everything;
		this.clear();
		this.everything = all;
	}

	/** Clears the selection. */
	clear(): void {
		for (const map of [this.#selected, this.#except]) map.clear();
		this.everything = false;
	}

	/**
	 * Clears the selection as it is sent: what is selected from now on belongs to the next decision.
	 *
	 * @returns selects it again, unless something else has been selected meanwhile; called if the server refuses
	 */
	take(): () => void {
		const { everything } = this;
		const [selected, except] = [[...this.#selected], [...this.#except]];
		this.clear();
		return () => {
			if (this.sums.lots > 0) return;
			this.everything = everything;
			for (const [key, lot] of selected) this.#selected.set(key, lot);
			for (const [key, lot] of except) this.#except.set(key, lot);
		};
	}
}
