<script lang="ts">
	import { createVirtualizer } from '@tanstack/svelte-virtual';
	import { untrack } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import type { SeriesName } from '../../../core/retention/schedule.ts';
	import type { SheetFilter } from '$lib/server/web/lots-address.ts';
	import type { SheetRows } from '$lib/server/lots/index.ts';
	import DecisionBar from '$lib/components/docket/DecisionBar.svelte';
	import DropRail from '$lib/components/docket/DropRail.svelte';
	import LotsFilter from '$lib/components/sheet/LotsFilter.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import ShareBar from '$lib/components/charts/ShareBar.svelte';
	import { LotsSelection } from '$lib/lots-selection.svelte.ts';
	import { LotsParts } from '$lib/lots-parts.svelte.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { sheetQuery } from '../../../core/lots/sheet-query.ts';
	import type { DecisionOptions } from '../../../core/docket/decision.ts';
	import type { Decision } from '../../../core/docket/decisions.ts';
	import { GROUPINGS, type Grouping, type Lot, type LotSort } from '../../../core/lots/lots.ts';
	import { showBytes, showCount, showMessages, showShare } from '../../../core/weigh/units.ts';

	interface Props {
		asked: SheetFilter;
		/** The first part of the sheet. */
		first: SheetRows;
		/** The address of further parts. */
		partAddress: string;
		folders: readonly string[];
		tags: readonly string[];
		series: readonly SeriesName[];
		/** Folders and tags this person used last. */
		recent: { folders: readonly string[]; tags: readonly string[] };
		ages: readonly { name: string; cutoff: string }[];
	}
	let { asked, first, partAddress, folders, tags, series, recent, ages }: Props = $props();

	const ROW_HEIGHT = 29;
	const OVERSCAN = 12;
	/* Rows loaded before they scroll into sight. */
	const AHEAD = 200;

	const parts = new LotsParts(() => new URL(partAddress + page.url.search, page.url));
	// another sheet: the state of the one before is cleared
	$effect(() => {
		const rows = first;
		untrack(() => parts.begin(rows));
	});
	let refused = $state<string>();
	/* The sheet shrinks by the height of a refusal, so that the decisions below it stay in sight. */
	let refusalHeight = $state(0);

	let scroller = $state<HTMLDivElement>();
	const virtualizer = createVirtualizer<HTMLDivElement, HTMLDivElement>({
		count: 0,
		getScrollElement: () => scroller ?? null,
		estimateSize: () => ROW_HEIGHT,
		// the headings stand above the first row, and over what scrolls
		scrollMargin: ROW_HEIGHT,
		scrollPaddingStart: ROW_HEIGHT,
		overscan: OVERSCAN
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
	/*
	 * Rows are reused while scrolling: no element is made or moved. At rest they stand in their order, for screen
	 * readers.
	 */
	const slots = $derived(
		Math.max(shown.length, Math.ceil(($virtualizer.scrollRect?.height ?? 0) / ROW_HEIGHT) + 2 * OVERSCAN + 1)
	);
	const rows = $derived(
		$virtualizer.isScrolling ? shown.toSorted((a, b) => (a.index % slots) - (b.index % slots)) : shown
	);
	$effect(() => {
		const [top, bottom] = [shown[0], shown.at(-1)];
		if (!top || !bottom) return;
		const ahead = Math.min(first.total.lots - 1, bottom.index + AHEAD);
		void parts.ask(top.index, bottom.index).then(() => parts.ask(bottom.index, ahead));
	});

	/* ---- the selected messages ---- */

	const selection = new LotsSelection(() => first.total);
	let at = $state(0);
	let anchor = 0;
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
		untrack(() => selection.clear());
	});

	async function selectRange(from: number, to: number) {
		const [low, high] = [Math.min(from, to), Math.max(from, to)];
		await parts.ask(low, high);
		for (let index = low; index <= high; index++) {
			const lot = parts.at(index);
			if (lot && !selection.has(lot)) selection.toggle(lot);
		}
	}

	function onRowClick(event: MouseEvent, index: number) {
		// the link opens the lot and selects nothing
		if ((event.target as HTMLElement).closest('a')) return;
		// rows come and go while scrolling, so the sheet keeps the focus
		scroller?.focus({ preventScroll: true });
		at = index;
		const lot = parts.at(index);
		if (!lot) return;
		if (event.shiftKey) void selectRange(anchor, index);
		else {
			selection.toggle(lot);
			anchor = index;
		}
	}

	/* The page with a lot's messages. */
	function addressOf({ key }: Lot): string {
		const several = page.url.searchParams.get('in');
		const parts = { by: asked.by, key, q: sheetQuery(asked), below: asked.folder, ...(several ? { in: several } : {}) };
		return `${page.url.pathname}/open?${new URLSearchParams(parts).toString()}`;
	}

	function walk(to: number, ranging: boolean) {
		at = Math.max(0, Math.min(first.total.lots - 1, to));
		if (ranging) void selectRange(anchor, at);
		$virtualizer.scrollToIndex(at);
	}

	function onKey(event: KeyboardEvent) {
		const lot = parts.at(at);
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
			selection.toggle(lot);
			anchor = at;
		} else if (event.key === 'Enter' && lot) void goto(addressOf(lot));
		else if (event.key === 'a' && (event.ctrlKey || event.metaKey)) selection.toggleAll();
		else if (event.key === 'Escape') selection.clear();
		else if (/^[1-9]$/.test(event.key) && !event.ctrlKey && !event.altKey) bar?.pressDigit(Number(event.key));
		else return;
		event.preventDefault();
	}

	/* ---- dragging ---- */

	/* The dragged lots: the selected ones, or another one. */
	let dragged = $state<{ messages: number; wish?: Record<string, unknown> }>();

	function dragLot(event: DragEvent, lot: Lot) {
		event.dataTransfer?.setData('text/plain', lot.label);
		dragged = selection.has(lot)
			? { messages: selection.sums.messages }
			: { messages: lot.messages, wish: { keys: [lot.key], labels: [lot.label] } };
	}

	function letGo(decision: Decision, options: DecisionOptions) {
		if (dragged) bar?.decideOn(decision, options, dragged.wish);
		dragged = undefined;
	}

	/* ---- loading the sheet ---- */

	function show(changed: Record<string, string>) {
		const address = new URL(page.url);
		for (const [name, value] of Object.entries(changed))
			if (value === '') address.searchParams.delete(name);
			else address.searchParams.set(name, value);
		void goto(address, { keepFocus: true, noScroll: true });
	}
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
	const groupedBy = $derived(GROUPINGS[asked.by as Grouping].replace(/^./, (letter) => letter.toUpperCase()));
	const hasFilter = $derived(
		[asked.q, asked.folder, asked.older, asked.larger, asked.unread, asked.attached, asked.unanswered].some(Boolean)
	);
</script>

<LotsFilter {asked} {folders} {ages} onShow={show} />

<div bind:clientHeight={refusalHeight}><Refused message={refused} /></div>

<div class="flex items-center justify-between gap-4 py-2 text-sm">
	<p role="status" data-testid="sheet-total">
		<b>{showCount(first.total.lots)} {first.total.lots === 1 ? 'lot' : 'lots'}</b>, {showMessages(first.total.messages)} ({showBytes(
			first.total.bytes
		)}){#if hasFilter}, filtered{/if}
	</p>
	<span class="text-ink-soft">↑ ↓ move, space selects, shift a range, Enter opens, digits decide</span>
	<button
		class="quiet text-sm"
		type="button"
		aria-pressed={selection.everything}
		onclick={() => selection.toggleAll()}
		disabled={first.total.lots === 0}
		>{selection.everything
			? 'Clear selection'
			: first.total.lots > 0
				? `Select all ${showCount(first.total.lots)}`
				: 'Select all'}
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
		style:--refusal="{refusalHeight}px"
	>
		<div role="row" class="lot head" aria-rowindex={1}>
			<span role="columnheader" class="sr-only">Selected</span>
			{#each COLUMNS as column (column.sort)}
				<span
					role="columnheader"
					class:number={column.number}
					aria-sort={asked.sort === column.sort ? (isDescending ? 'descending' : 'ascending') : undefined}
				>
					<button type="button" tabindex="-1" onclick={() => sortBy(column.sort)}
						>{column.name || groupedBy}{asked.sort === column.sort ? (isDescending ? ' ↓' : ' ↑') : ''}</button
					>
				</span>
			{/each}
			<span role="columnheader" class="sr-only">Open</span>
		</div>
		<div role="rowgroup" style:height="{$virtualizer.getTotalSize()}px" class="rows">
			{#each rows as { index, start } (index % slots)}
				{@const lot = parts.at(index)}
				<!-- svelte-ignore a11y_click_events_have_key_events -->
				<div
					role="row"
					tabindex="-1"
					id="lot-{index}"
					aria-rowindex={index + 2}
					aria-selected={lot ? selection.has(lot) : false}
					class="lot"
					class:at={index === at}
					class:selected={lot && selection.has(lot)}
					style:transform="translateY({start - ROW_HEIGHT}px)"
					onclick={(event) => onRowClick(event, index)}
					draggable="true"
					ondragstart={(event) => lot && dragLot(event, lot)}
					ondragend={() => (dragged = undefined)}
				>
					{#if lot}
						<span role="gridcell" class="tick" aria-label={selection.has(lot) ? 'selected' : 'not selected'}
							>{selection.has(lot) ? '✓' : ''}</span
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
							><a class="lead" tabindex="-1" href={addressOf(lot)} aria-label="Open {lot.label}">open</a></span
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
		selected={selection.sums}
		wish={selection.wish}
		action="?/decide{page.url.search.replace('?', '&')}"
		{folders}
		{tags}
		{series}
		{recent}
		hasNewest={asked.by !== 'tag' && asked.by !== 'attachment' && selection.sums.lots > 0}
		onSend={() => {
			refused = undefined;
			return selection.take();
		}}
		onRefused={(message) => (refused = message)}
	/>
{/if}

<DropRail messages={dragged?.messages} {folders} {tags} onLetGo={letGo} />

<style>
	.grid-frame {
		height: clamp(12rem, calc(100vh - 29.2rem - var(--refusal)), 60rem);
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
		contain: strict;
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
	.selected {
		background: var(--stamp-soft);
	}
	.rows .lot:hover {
		background: color-mix(in oklab, var(--stamp-soft) 45%, transparent);
	}
	.rows .lot.selected:hover {
		background: var(--stamp-soft);
	}
	.grid-frame:focus-visible .at {
		outline: 2px solid var(--stamp);
		outline-offset: -2px;
	}
</style>
