<script lang="ts">
	import { createVirtualizer } from '@tanstack/svelte-virtual';
	import { untrack } from 'svelte';
	import { SvelteMap } from 'svelte/reactivity';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import type { SheetAsked } from '$lib/server/lots-door.ts';
	import type { SheetRows } from '$lib/server/work/lots.ts';
	import DecisionBar from '$lib/components/DecisionBar.svelte';
	import DropRail from '$lib/components/DropRail.svelte';
	import LotDrawer from '$lib/components/LotDrawer.svelte';
	import Refused from '$lib/components/Refused.svelte';
	import ShareBar from '$lib/components/ShareBar.svelte';
	import { showDate } from '../../core/calendar.ts';
	import type { Decision, DecisionOptions } from '../../core/docket/decisions.ts';
	import { GROUPINGS, type Grouping, type Lot, type LotSort } from '../../core/lots/lots.ts';
	import { showBytes, showCount, showMessages, showShare } from '../../core/weigh/units.ts';

	interface Props {
		asked: SheetAsked;
		/** The first part of the sheet. */
		first: SheetRows;
		/** Where more of it is asked for. */
		partAddress: string;
		folders: readonly string[];
		tags: readonly string[];
		ages: readonly { name: string; cutoff: string }[];
	}
	let { asked, first, partAddress, folders, tags, ages }: Props = $props();

	const PART = 200;
	const ROW_HEIGHT = 29;

	/* ---- the rows, part by part ---- */

	const parts = new SvelteMap<number, Lot[]>();
	// not shown: nothing has to follow it
	// eslint-disable-next-line svelte/prefer-svelte-reactivity
	const asking = new Set<number>();
	let refused = $state<string>();

	// another sheet: what was there of the one before goes
	$effect(() => {
		const rows = first;
		untrack(() => {
			parts.clear();
			asking.clear();
			parts.set(0, rows.lots);
		});
	});

	async function askPart(at: number): Promise<void> {
		if (parts.has(at) || asking.has(at)) return;
		asking.add(at);
		const sheet = first;
		const address = new URL(partAddress + page.url.search, page.url);
		address.searchParams.set('offset', String(at * PART));
		address.searchParams.set('limit', String(PART));
		try {
			const answer = await fetch(address);
			if (sheet === first && answer.ok) parts.set(at, ((await answer.json()) as SheetRows).lots);
		} finally {
			asking.delete(at);
		}
	}

	const lotAt = (index: number): Lot | undefined => parts.get(Math.floor(index / PART))?.[index % PART];

	let scroller = $state<HTMLDivElement>();
	const virtualizer = createVirtualizer<HTMLDivElement, HTMLDivElement>({
		count: 0,
		getScrollElement: () => scroller ?? null,
		estimateSize: () => ROW_HEIGHT,
		// the head of the sheet stands above the first row, and over what scrolls
		scrollMargin: ROW_HEIGHT,
		scrollPaddingStart: ROW_HEIGHT,
		overscan: 12
	});
	$effect(() => {
		const count = first.total.lots;
		const element = scroller;
		untrack(() => {
			$virtualizer.setOptions({ count, getScrollElement: () => element ?? null });
			$virtualizer.measure();
		});
	});
	const shown = $derived($virtualizer.getVirtualItems());
	$effect(() => {
		for (const { index } of shown) if (lotAt(index) === undefined) void askPart(Math.floor(index / PART));
	});

	/* ---- what is chosen ---- */

	const chosen = new SvelteMap<string, Lot>();
	const except = new SvelteMap<string, Lot>();
	/* All that match, not only what is shown; save those in `except`. */
	let everything = $state(false);
	/* Single messages, left out and added in an opened lot. */
	const without = new SvelteMap<number, { bytes: number }>();
	const added = new SvelteMap<number, { bytes: number }>();
	let at = $state(0);
	let anchor = 0;
	let open = $state<Lot>();
	let bar = $state<DecisionBar>();

	const question = $derived(
		JSON.stringify([
			page.url.pathname,
			asked.by,
			asked.q,
			asked.folder,
			asked.older,
			asked.larger,
			asked.unread,
			asked.attached,
			asked.unanswered
		])
	);
	$effect(() => {
		void question;
		untrack(clear);
	});

	function clear() {
		chosen.clear();
		except.clear();
		without.clear();
		added.clear();
		everything = false;
	}

	const isChosen = (lot: Lot) => (everything ? !except.has(lot.key) : chosen.has(lot.key));
	const sumOf = (lots: Iterable<{ messages?: number; bytes: number }>) => {
		let messages = 0;
		let bytes = 0;
		for (const lot of lots) {
			messages += lot.messages ?? 1;
			bytes += lot.bytes;
		}
		return { messages, bytes };
	};
	const sums = $derived.by(() => {
		const lots = everything ? sumOf(except.values()) : sumOf(chosen.values());
		const out = sumOf(without.values());
		const more = sumOf(added.values());
		const base = everything
			? { messages: first.total.messages - lots.messages, bytes: first.total.bytes - lots.bytes }
			: lots;
		return {
			messages: base.messages - out.messages + more.messages,
			bytes: base.bytes - out.bytes + more.bytes,
			lots: everything ? first.total.lots - except.size : chosen.size
		};
	});
	const wish = $derived({
		...(everything ? {} : { keys: [...chosen.keys()] }),
		withoutKeys: everything ? [...except.keys()] : [],
		without: [...without.keys()],
		items: [...added.keys()],
		labels: everything || chosen.size > 3 ? [] : [...chosen.values()].map(({ label }) => label)
	});

	function toggle(lot: Lot) {
		const map = everything ? except : chosen;
		if (map.has(lot.key)) map.delete(lot.key);
		else map.set(lot.key, lot);
	}

	async function chooseRange(from: number, to: number) {
		const [low, high] = [Math.min(from, to), Math.max(from, to)];
		for (let part = Math.floor(low / PART); part <= Math.floor(high / PART); part++) await askPart(part);
		for (let index = low; index <= high; index++) {
			const lot = lotAt(index);
			if (lot && !isChosen(lot)) toggle(lot);
		}
	}

	function onRowClick(event: MouseEvent, index: number) {
		at = index;
		const lot = lotAt(index);
		if (!lot) return;
		if (event.shiftKey) void chooseRange(anchor, index);
		else {
			toggle(lot);
			anchor = index;
		}
	}

	function walk(to: number, ranging: boolean) {
		at = Math.max(0, Math.min(first.total.lots - 1, to));
		if (ranging) void chooseRange(anchor, at);
		$virtualizer.scrollToIndex(at);
	}

	function onKey(event: KeyboardEvent) {
		const lot = lotAt(at);
		const screen = Math.max(1, Math.floor((scroller?.clientHeight ?? 300) / ROW_HEIGHT) - 1);
		const steps: Record<string, number> = {
			ArrowDown: at + 1,
			ArrowUp: at - 1,
			PageDown: at + screen,
			PageUp: at - screen,
			Home: 0,
			End: first.total.lots - 1
		};
		const to = steps[event.key];
		if (to !== undefined) {
			if (!event.shiftKey) anchor = Math.max(0, Math.min(first.total.lots - 1, to));
			walk(to, event.shiftKey);
		} else if (event.key === ' ' && lot) {
			toggle(lot);
			anchor = at;
		} else if (event.key === 'Enter' && lot) open = lot;
		else if (event.key === 'a' && (event.ctrlKey || event.metaKey)) chooseAll();
		else if (event.key === 'Escape') clear();
		else if (/^[1-9]$/.test(event.key) && !event.ctrlKey && !event.altKey) bar?.choose(Number(event.key));
		else return;
		event.preventDefault();
	}

	function chooseAll() {
		const all = !everything;
		clear();
		everything = all;
	}

	/* ---- dragging ---- */

	/* What is dragged: the lots that are chosen, a lot that is not, or a message of an opened one. */
	let dragged = $state<{ messages: number; wish: Record<string, unknown> }>();

	function dragLot(event: DragEvent, lot: Lot) {
		event.dataTransfer?.setData('text/plain', lot.label);
		dragged = isChosen(lot)
			? { messages: sums.messages, wish }
			: { messages: lot.messages, wish: { keys: [lot.key], labels: [lot.label] } };
	}

	function letGo(decision: Decision, options: DecisionOptions) {
		if (dragged) bar?.decideOn(decision, options, dragged.wish);
		dragged = undefined;
	}

	/* ---- the sheet that is asked for ---- */

	function show(changed: Record<string, string>) {
		const address = new URL(page.url);
		for (const [name, value] of Object.entries(changed))
			if (value === '') address.searchParams.delete(name);
			else address.searchParams.set(name, value);
		void goto(address, { keepFocus: true, noScroll: true });
	}
	const onChange = (name: string) => (event: Event & { currentTarget: HTMLInputElement | HTMLSelectElement }) =>
		show({ [name]: event.currentTarget.value });
	const onCheck = (name: string) => (event: Event & { currentTarget: HTMLInputElement }) =>
		show({ [name]: event.currentTarget.checked ? '1' : '' });

	const COLUMNS: { sort: LotSort; name: string; number?: boolean }[] = [
		{ sort: 'label', name: '' },
		{ sort: 'messages', name: 'Messages', number: true },
		{ sort: 'bytes', name: 'Size', number: true },
		{ sort: 'oldest', name: 'Oldest', number: true },
		{ sort: 'newest', name: 'Newest', number: true },
		{ sort: 'unread', name: 'Unread', number: true },
		{ sort: 'answered', name: 'Answered', number: true }
	];
	const isDescending = $derived(asked.descending === '' ? asked.sort !== 'label' : asked.descending === '1');
	function sortBy(sort: LotSort) {
		const turned = asked.sort === sort ? !isDescending : sort !== 'label';
		show({ sort, descending: turned ? '1' : '0' });
	}
	const date = (text: string | null) => (text ? showDate(text) : '–');
	const SIZES = ['100kB', '1MB', '5MB', '25MB'];
	const hasFilter = $derived(
		[asked.q, asked.folder, asked.older, asked.larger, asked.unread, asked.attached, asked.unanswered].some(Boolean)
	);
</script>

<div class="bg-sheet border-rule-strong flex flex-wrap items-end gap-x-3 gap-y-2 border p-3 text-sm">
	<label class="flex flex-col gap-0.5"
		><span class="font-semibold">Group by</span>
		<select
			class="field"
			value={asked.by}
			onchange={(event) => show({ by: event.currentTarget.value, sort: '', descending: '' })}
		>
			{#each Object.entries(GROUPINGS) as [value, name] (value)}<option {value}>{name}</option>{/each}
		</select></label
	>
	{#if folders.length > 0}
		<label class="flex flex-col gap-0.5"
			><span>In the folder</span>
			<select class="field max-w-44" value={asked.folder} onchange={onChange('folder')}>
				<option value="">any</option>
				{#each folders as path (path)}<option value={path}>{path}</option>{/each}
			</select></label
		>
	{/if}
	<label class="flex flex-col gap-0.5"
		><span>Older than</span>
		<select class="field" value={asked.older} onchange={onChange('older')}>
			<option value="">any age</option>
			{#each ages as { name, cutoff } (cutoff)}<option value={cutoff}>{name}</option>{/each}
		</select></label
	>
	<label class="flex flex-col gap-0.5"
		><span>Larger than</span>
		<select class="field" value={asked.larger} onchange={onChange('larger')}>
			<option value="">any size</option>
			{#each SIZES as size (size)}<option value={size}>{size.replace(/(\d+)/, '$1 ')}</option>{/each}
		</select></label
	>
	<form
		class="flex min-w-44 flex-1 flex-col gap-0.5"
		onsubmit={(event) => {
			event.preventDefault();
			show({ q: String(new FormData(event.currentTarget).get('q') ?? '') });
		}}
	>
		<label for="sheet-query">Only what matches</label>
		<input class="field" id="sheet-query" name="q" type="search" value={asked.q} placeholder="words, from:, list: …" />
	</form>
	<fieldset class="flex flex-wrap gap-x-3">
		<legend class="sr-only">Only what is</legend>
		<label class="flex items-center gap-1"
			><input type="checkbox" checked={asked.unread !== ''} onchange={onCheck('unread')} /> unread</label
		>
		<label class="flex items-center gap-1"
			><input type="checkbox" checked={asked.attached !== ''} onchange={onCheck('attached')} /> with attachment</label
		>
		<label class="flex items-center gap-1"
			><input type="checkbox" checked={asked.unanswered !== ''} onchange={onCheck('unanswered')} /> never answered</label
		>
	</fieldset>
</div>

<Refused message={refused} />

<div class="flex items-center justify-between gap-4 py-2 text-sm">
	<p role="status" data-testid="sheet-total">
		<b>{showCount(first.total.lots)} {first.total.lots === 1 ? 'lot' : 'lots'}</b>, {showMessages(first.total.messages)} ({showBytes(
			first.total.bytes
		)}){#if hasFilter}, filtered{/if}
	</p>
	<span class="text-ink-soft">↑ ↓ walk, space chooses, shift a range, Enter opens, digits decide</span>
	<button
		class="quiet text-sm"
		type="button"
		aria-pressed={everything}
		onclick={chooseAll}
		disabled={first.total.lots === 0}
		>{everything ? 'Choose singly' : `Choose all ${showCount(first.total.lots)}`}
		<kbd class="text-xs">Ctrl A</kbd></button
	>
</div>

{#if first.total.lots === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		{hasFilter ? 'No mail in folders matches this. Fewer filters show more.' : 'There is no mail in folders here.'}
	</p>
{:else}
	<div
		bind:this={scroller}
		role="grid"
		aria-label="Lots by {GROUPINGS[asked.by as Grouping]}"
		aria-rowcount={first.total.lots + 1}
		aria-multiselectable="true"
		aria-activedescendant="lot-{at}"
		tabindex="0"
		onkeydown={onKey}
		class="grid-frame"
	>
		<div role="row" class="lot head" aria-rowindex={1}>
			<span role="columnheader" class="sr-only">Chosen</span>
			{#each COLUMNS as column (column.sort)}
				<span
					role="columnheader"
					class:number={column.number}
					aria-sort={asked.sort === column.sort ? (isDescending ? 'descending' : 'ascending') : undefined}
				>
					<button type="button" tabindex="-1" onclick={() => sortBy(column.sort)}
						>{column.name || GROUPINGS[asked.by as Grouping]}{asked.sort === column.sort
							? isDescending
								? ' ↓'
								: ' ↑'
							: ''}</button
					>
				</span>
			{/each}
			<span role="columnheader" class="sr-only">Open</span>
		</div>
		<div role="rowgroup" style:height="{$virtualizer.getTotalSize()}px" class="rows">
			{#each shown as { index, start } (index)}
				{@const lot = lotAt(index)}
				<!-- svelte-ignore a11y_click_events_have_key_events -->
				<div
					role="row"
					tabindex="-1"
					id="lot-{index}"
					aria-rowindex={index + 2}
					aria-selected={lot ? isChosen(lot) : false}
					class="lot"
					class:at={index === at}
					class:chosen={lot && isChosen(lot)}
					style:transform="translateY({start - ROW_HEIGHT}px)"
					onclick={(event) => onRowClick(event, index)}
					draggable="true"
					ondragstart={(event) => lot && dragLot(event, lot)}
					ondragend={() => (dragged = undefined)}
				>
					{#if lot}
						<span role="gridcell" class="tick" aria-label={isChosen(lot) ? 'chosen' : 'not chosen'}
							>{isChosen(lot) ? '✓' : ''}</span
						>
						<span role="gridcell" class="truncate" title={lot.label}>{lot.label}</span>
						<span role="gridcell" class="number">{showCount(lot.messages)}</span>
						<span role="gridcell" class="number weight"
							><ShareBar bytes={lot.bytes} whole={first.heaviest} />{showBytes(lot.bytes)}</span
						>
						<span role="gridcell" class="number">{date(lot.oldest)}</span>
						<span role="gridcell" class="number">{date(lot.newest)}</span>
						<span role="gridcell" class="number">{lot.unread === 0 ? '–' : showShare(lot.unread, lot.messages)}</span>
						<span role="gridcell" class="number">{date(lot.answered)}</span>
						<span role="gridcell"
							><button
								class="lead"
								type="button"
								tabindex="-1"
								aria-label="Open {lot.label}"
								onclick={(event) => {
									event.stopPropagation();
									at = index;
									open = lot;
								}}>open</button
							></span
						>
					{:else}
						<span role="gridcell" class="text-ink-soft col-span-9">…</span>
					{/if}
				</div>
			{/each}
		</div>
	</div>
	<DecisionBar
		bind:this={bar}
		chosen={sums}
		{wish}
		action="?/decide{page.url.search.replace('?', '&')}"
		{folders}
		{tags}
		hasNewest={asked.by !== 'tag' && asked.by !== 'attachment' && sums.lots > 0}
		onDone={clear}
		onRefused={(message) => (refused = message)}
	/>
{/if}

<DropRail messages={open ? undefined : dragged?.messages} {folders} {tags} onLetGo={letGo} />
<LotDrawer
	bind:lot={open}
	{folders}
	{tags}
	draggedMessages={dragged?.messages}
	onDrag={(item) => (dragged = item && { messages: 1, wish: { keys: [], items: [item.id] } })}
	onLetGo={(decision, options) => {
		letGo(decision, options);
		open = undefined;
	}}
	by={asked.by}
	{partAddress}
	isChosen={open ? isChosen(open) : false}
	isIn={(item) => (open && isChosen(open) ? !without.has(item.id) : added.has(item.id))}
	onToggle={(item) => {
		const map = open && isChosen(open) ? without : added;
		if (map.has(item.id)) map.delete(item.id);
		else map.set(item.id, { bytes: item.bytes });
	}}
/>

<style>
	.grid-frame {
		height: clamp(12rem, calc(100vh - 29.2rem), 60rem);
		overflow-y: scroll;
		contain: strict;
		background: var(--sheet);
		border: 1px solid var(--rule-strong);
		scroll-padding-top: 29px;
	}
	.rows {
		position: relative;
	}
	.lot {
		display: grid;
		grid-template-columns: 1.6rem minmax(0, 1fr) 4.6rem 9.5rem 6.2rem 6.2rem 4.6rem 6.2rem 3rem;
		align-items: center;
		gap: 0 0.6rem;
		padding: 0 0.6rem;
		height: 29px;
		border-bottom: 1px solid var(--rule);
		font-size: 0.93rem;
	}
	.rows .lot {
		position: absolute;
		inset: 0 0 auto;
		cursor: pointer;
	}
	.head {
		position: sticky;
		top: 0;
		z-index: 1;
		background: var(--sheet);
		border-bottom: 2px solid var(--rule-strong);
		color: var(--ink-soft);
		font-size: 0.82rem;
	}
	.head > :first-child {
		position: static;
		width: auto;
		overflow: hidden;
		clip-path: none;
		color: transparent;
	}
	.head button {
		font-weight: 600;
		cursor: pointer;
	}
	.head button:hover {
		color: var(--stamp);
	}
	.number {
		text-align: right;
		white-space: nowrap;
	}
	.weight {
		display: grid;
		grid-template-columns: 1fr auto;
		align-items: center;
		gap: 0.5rem;
	}
	.tick {
		width: 1.05rem;
		height: 1.05rem;
		line-height: 1;
		text-align: center;
		border: 1px solid var(--rule-strong);
		border-radius: 2px;
		color: var(--stamp);
		font-weight: 700;
	}
	.chosen {
		background: var(--stamp-soft);
	}
	.rows .lot:hover {
		background: color-mix(in oklab, var(--stamp-soft) 45%, transparent);
	}
	.rows .lot.chosen:hover {
		background: var(--stamp-soft);
	}
	.grid-frame:focus-visible .at {
		outline: 2px solid var(--stamp);
		outline-offset: -2px;
	}
</style>
