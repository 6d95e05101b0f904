<script lang="ts">
	import ChevronLeftIcon from '@lucide/svelte/icons/chevron-left';
	import ChevronRightIcon from '@lucide/svelte/icons/chevron-right';
	import { type Snippet, tick, untrack } from 'svelte';
	import { page } from '$app/state';
	import type { MessagesDecided } from '$lib/server/find/index.ts';
	import type { MessagesPage } from '$lib/server/web/messages-page.ts';
	import { MessageSelection } from '$lib/message-selection.svelte.ts';
	import { type Column, HiddenColumns } from '$lib/hidden-columns.svelte.ts';
	import ColumnsMenu from '$lib/components/sheet/ColumnsMenu.svelte';
	import DecidedResults from '$lib/components/sheet/DecidedResults.svelte';
	import DecisionBar from '$lib/components/docket/DecisionBar.svelte';
	import DropRail from '$lib/components/docket/DropRail.svelte';
	import FileLinks from '$lib/components/message/FileLinks.svelte';
	import ListOfMessage from '$lib/components/message/ListOfMessage.svelte';
	import Marked from '$lib/components/message/Marked.svelte';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import StateMark from '$lib/components/message/StateMark.svelte';
	import TagMark from '$lib/components/message/TagMark.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import PageTurner from '$lib/components/sheet/PageTurner.svelte';
	import { showDate } from '../../../core/calendar.ts';
	import type { DecisionOptions, ItemState } from '../../../core/docket/decision.ts';
	import { AT_ONCE, type Decision, DECISIONS, decisionsFor, ruleOf } from '../../../core/docket/decisions.ts';
	import { MESSAGE_HEADINGS } from '../../../core/search/orders.ts';
	import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';

	interface Props {
		/** The page's messages, and its address. */
		sheet: MessagesPage;
		/** Shown if there are no messages. */
		empty: Snippet;
		/** Whether each message's folder is shown; a folder's own page does not need it. */
		hasPlaces?: boolean;
		/** Shown below the sheet for the selected messages, or with none selected for all. */
		below?: Snippet<[readonly number[]]>;
		/** The result of the page's last post. */
		answer: { message?: string; decided?: MessagesDecided[] } | null;
	}
	let { sheet, empty, hasPlaces = true, below, answer }: Props = $props();

	type Hit = MessagesPage['hits'][number];

	const hits = $derived(sheet.hits);
	const pages = $derived(Math.ceil(sheet.total / sheet.pageSize));
	const action = $derived(`?/decide${page.url.search.replace('?', '&')}`);

	/* Properties of both rows of decisions: the sheet's, and the open message's. */
	const barProps = $derived({
		folders: sheet.folders,
		tags: sheet.tags,
		recent: sheet.recent,
		series: sheet.series,
		action,
		hasSeveralTags: true
	});

	/* ---- the selection ---- */

	const selection = new MessageSelection<Hit['state']>();
	/* The row with the focus; without a selection, decisions apply to it. */
	let at = $state(-1);
	let anchor = -1;
	const question = $derived(JSON.stringify([page.url.pathname, sheet.search]));
	$effect(() => {
		void question;
		untrack(() => selection.clear());
	});
	// another page or order has another message in that place
	const place = $derived(JSON.stringify([question, sheet.page, sheet.sort]));
	$effect(() => {
		void place;
		at = -1;
	});

	const rowAt = $derived(hits[at]);
	const meant = $derived.by((): { messages: number; bytes: number; states: ItemState[] } => {
		if (selection.isEverything) return { messages: sheet.total, bytes: sheet.bytes, states: sheet.search.states };
		const rows = selection.isEmpty ? (rowAt ? [rowAt] : []) : selection.messages;
		return {
			messages: rows.length,
			bytes: rows.reduce((sum, { bytes }) => sum + bytes, 0),
			states: [...new Set(rows.map(({ state }) => state))]
		};
	});
	const wish = $derived(
		selection.isEverything
			? { search: sheet.search }
			: { ids: selection.isEmpty ? (rowAt ? [rowAt.id] : []) : selection.ids }
	);
	// with nothing selected, the row shows the decisions possible on this page
	const offered = $derived(decisionsFor(meant.states.length > 0 ? meant.states : sheet.search.states, 'administrator'));

	const selectRange = (from: number, to: number) =>
		selection.add(hits.slice(Math.max(0, Math.min(from, to)), Math.max(from, to) + 1));

	/* ---- keys ---- */

	let body = $state<HTMLTableSectionElement>();
	let bar = $state<DecisionBar>();
	let drawerBar = $state<DecisionBar>();

	function focusRow(index: number) {
		const to = Math.max(0, Math.min(hits.length - 1, index));
		(body?.children[to] as HTMLElement | undefined)?.focus();
	}

	function onRowKey(event: KeyboardEvent & { currentTarget: HTMLTableRowElement }, hit: Hit, index: number) {
		if (event.target !== event.currentTarget) return;
		const steps: Record<string, number> = {
			ArrowDown: index + 1,
			ArrowUp: index - 1,
			Home: 0,
			End: hits.length - 1
		};
		const to = steps[event.key];
		if (to !== undefined) {
			if (event.shiftKey) selectRange(anchor, to);
			else anchor = Math.max(0, Math.min(hits.length - 1, to));
			focusRow(to);
		} else if (event.key === ' ') {
			if (event.shiftKey && anchor >= 0) selectRange(anchor, index);
			else selection.toggle(hit);
			anchor = index;
		} else if (event.key === 'Enter') open = hit.id;
		else if (event.key === 'a' && (event.ctrlKey || event.metaKey)) selection.togglePage(hits);
		else if (event.key === 'Escape') selection.clear();
		else return;
		event.preventDefault();
	}

	const isDigit = (event: KeyboardEvent) =>
		/^[1-9]$/.test(event.key) && !event.ctrlKey && !event.altKey && !event.metaKey;

	/* A key pressed before the answer to the last one applies to the message that comes next. */
	let isSending = false;
	let next: number | undefined;
	function decideBy({ key }: { key: string }) {
		if (isSending) next = Number(key);
		else (open === undefined ? bar : drawerBar)?.pressDigit(Number(key));
	}
	function goOn() {
		isSending = false;
		const digit = next;
		next = undefined;
		if (digit !== undefined) decideBy({ key: String(digit) });
	}

	/* The first key goes to the sheet; with a message open, keys go to it. */
	function onWindowKey(event: KeyboardEvent) {
		const target = event.target as HTMLElement;
		if (target.closest('input:not([type=checkbox]), textarea, select, [contenteditable]')) return;
		if (open !== undefined) {
			if (event.key === 'ArrowRight') openBeside(1);
			else if (event.key === 'ArrowLeft') openBeside(-1);
			else if (isDigit(event)) decideBy(event);
			else return;
		} else if (event.key === 'ArrowDown' && (target === document.body || target.closest('h1, main') === target))
			focusRow(0);
		else if (meant.messages > 0 && isDigit(event) && !target.closest('[role=dialog]')) decideBy(event);
		else return;
		event.preventDefault();
	}

	/* ---- the open message ---- */

	let open = $state<number>();
	/* Loaded again after a decision that does not take it off the sheet. */
	let version = $state(0);
	const openAt = $derived(hits.findIndex(({ id }) => id === open));

	function openBeside(step: number) {
		const beside = hits[openAt + step];
		if (openAt >= 0 && beside) open = beside.id;
	}

	/* ---- decisions ---- */

	let refused = $state<string>();
	let isDismissed = $state(false);
	/* The message after the open one, after that has left the sheet. */
	let following: number | undefined;

	const movesAway = (decision: string) =>
		!(DECISIONS as readonly string[]).includes(decision) || ruleOf(decision as Decision).to !== undefined;

	function begin() {
		refused = undefined;
		isDismissed = false;
		isSending = true;
	}
	function stop() {
		isSending = false;
		next = undefined;
	}

	function onSend() {
		begin();
		const index = at;
		const selectAgain = selection.take();
		void tick().then(() => (lastAt = index));
		return () => {
			stop();
			selectAgain();
		};
	}
	let lastAt = -1;

	/* The focus stays in its place, on the message that moved up into it. */
	async function onDone() {
		await tick();
		if (open === undefined && lastAt >= 0 && hits.length > 0) focusRow(lastAt);
		goOn();
	}

	/* The selection on the sheet is for the sheet's row alone. */
	function onSendInDrawer() {
		begin();
		following = (hits[openAt + 1] ?? hits[openAt - 1])?.id;
		return stop;
	}

	function onDoneInDrawer(decision: string) {
		if (!movesAway(decision)) version++;
		else {
			if (open !== undefined) selection.remove(open);
			open = following;
		}
		// the next message opens with a row of decisions of its own
		if (!movesAway(decision) || open === undefined) goOn();
	}
	$effect(() => {
		if (open === undefined) stop();
	});

	const decided = $derived(isDismissed ? [] : (answer?.decided ?? []));

	/* ---- dragging ---- */

	const lastUsedFirst = (recent: readonly string[], all: readonly string[]) => [
		...new Set([...recent.filter((name) => all.includes(name)), ...all])
	];
	/* The selected messages, or another one. */
	let dragged = $state<number[]>();
	function drag(event: DragEvent, hit: Hit) {
		event.dataTransfer?.setData('text/plain', hit.subject);
		dragged = selection.has(hit.id) && !selection.isEverything ? selection.ids : [hit.id];
	}
	function letGo(decision: Decision, options: DecisionOptions) {
		bar?.decideOn(decision, options, { ids: dragged });
		dragged = undefined;
	}

	/* ---- headings and columns ---- */

	const orderOf = (orders: readonly string[]) =>
		orders[(orders.indexOf(sheet.sort) + 1) % orders.length] ?? orders[0] ?? '';
	function hrefOf(order: string): string {
		const address = new URL(page.url);
		address.searchParams.set('sort', order);
		address.searchParams.delete('page');
		return address.pathname + address.search;
	}
	const arrow = (orders: readonly string[]) => (orders[0] === sheet.sort ? ' ▾' : orders[1] === sheet.sort ? ' ▴' : '');

	const columns = new HiddenColumns();
	const shows = (column: Column) => columns.shows(column);
</script>

<svelte:window onkeydown={onWindowKey} />

{#snippet heading(name: string, key: keyof typeof MESSAGE_HEADINGS)}
	<a class="lead" href={hrefOf(orderOf(MESSAGE_HEADINGS[key]))} data-sveltekit-noscroll
		>{name}<span aria-hidden="true">{arrow(MESSAGE_HEADINGS[key])}</span></a
	>
{/snippet}

<div class="my-2 flex flex-col gap-2">
	<Refused message={refused ?? (isDismissed ? undefined : answer?.message)} />
	{#if open === undefined}<DecidedResults {decided} onTakenBack={() => (isDismissed = true)} />{/if}
</div>

<div class="flex flex-wrap items-center gap-3 pb-1.5">
	<p role="status" data-testid="total">
		<b>{sheet.totalIsMore ? 'More than ' : ''}{showMessages(sheet.total)}</b>{sheet.search.query
			? ' found'
			: ''}{#if pages > 1}, page {sheet.page} of {showCount(pages)}{/if}
	</p>
	<span class="text-ink-soft text-sm">↑ ↓ move, space selects, Enter opens, digits decide</span>
	<span class="ml-auto flex gap-2">
		{#if pages > 1 && !sheet.totalIsMore}
			<button
				class="quiet text-sm"
				type="button"
				aria-pressed={selection.isEverything}
				onclick={() => selection.toggleEverything()}
				>{selection.isEverything ? 'Clear selection' : `Select all ${showCount(sheet.total)}`}</button
			>
		{/if}
		<ColumnsMenu {columns} />
	</span>
</div>

{#if hits.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">{@render empty()}</p>
{:else}
	<table class="sheet table-fixed">
		<thead>
			<tr>
				<th class="w-9"
					><input
						type="checkbox"
						aria-label="Select the messages of this page"
						checked={hits.every(({ id }) => selection.has(id))}
						disabled={selection.isEverything}
						onchange={() => selection.togglePage(hits)}
					/></th
				>
				{#if shows('received')}<th class="w-28">{@render heading('Received', 'received')}</th>{/if}
				{#if shows('from')}<th class="w-44">{@render heading('From', 'from')}</th>{/if}
				<th
					>{@render heading('Subject', 'subject')}<span class="ml-3 font-normal"
						>{@render heading('important first', 'importance')}{#if shows('files')}
							<span class="ml-3">{@render heading('most attached first', 'attachments')}</span>{/if}</span
					></th
				>
				{#if hasPlaces}<th class="w-28">{@render heading('State', 'state')}</th>{/if}
				{#if shows('size')}<th class="number w-20">{@render heading('Size', 'size')}</th>{/if}
			</tr>
		</thead>
		<tbody bind:this={body}>
			{#each hits as hit, index (hit.id)}
				{@const isSelected = selection.has(hit.id)}
				<tr
					tabindex="0"
					class:selected={isSelected}
					class:meant={index === at && selection.isEmpty}
					onkeydown={(event) => onRowKey(event, hit, index)}
					onfocus={() => (at = index)}
					draggable={hit.state === 'live' ? 'true' : undefined}
					ondragstart={(event) => drag(event, hit)}
					ondragend={() => (dragged = undefined)}
					aria-label="{hit.subject || 'no subject'}, {hit.state}{isSelected ? ', selected' : ''}"
				>
					<td
						><input
							type="checkbox"
							aria-label="Select {hit.subject || 'message without subject'}"
							checked={isSelected}
							onchange={() => selection.toggle(hit)}
							disabled={selection.isEverything}
							tabindex="-1"
						/></td
					>
					{#if shows('received')}
						<td class="whitespace-nowrap"
							>{hit.receivedOn ? showDate(hit.receivedOn) : 'undated'}{#if hit.dateInDoubt}<span
									class="text-wax block text-xs">date in doubt</span
								>{/if}</td
						>
					{/if}
					{#if shows('from')}
						<td class="truncate" title={hit.fromAddress}><Marked stretches={hit.markedFrom} /></td>
					{/if}
					<td>
						<span class="flex items-baseline gap-2">
							<button
								type="button"
								tabindex="-1"
								class="lead min-w-0 truncate text-left"
								class:font-semibold={hit.seen === 0}
								onclick={() => (open = hit.id)}
								>{#if hit.subject}<Marked stretches={hit.markedSubject} />{:else}(no subject){/if}</button
							>
							{#if hit.held}<b class="shrink-0 text-xs" title="under a hold: it cannot be deleted">H held</b>{/if}
							{#if hit.flagged}<b class="shrink-0 text-xs">flag</b>{/if}
							{#if hit.kept}<b class="shrink-0 text-xs">kept</b>{/if}
							{#if hit.paused}<b class="shrink-0 text-xs">paused</b>{/if}
							{#each hit.tags as tag (tag.id)}<TagMark {tag} />{/each}
						</span>
						{#if shows('text')}<span class="text-ink-soft block truncate text-sm"
								><Marked stretches={hit.context} /></span
							>{/if}
						{#if shows('files')}<FileLinks id={hit.id} files={hit.files} onMore={() => (open = hit.id)} />{/if}
					</td>
					{#if hasPlaces}
						<td
							><StateMark state={hit.state} /><a
								class="text-ink-soft hover:text-stamp block truncate text-xs"
								tabindex="-1"
								href="/m/{hit.mailboxId}/folders/{hit.homeId}"
								title="{hit.mailbox}, {hit.origin ?? hit.folder}">{hit.origin ?? hit.folder}</a
							></td
						>
					{/if}
					{#if shows('size')}<td class="number">{showBytes(hit.bytes)}</td>{/if}
				</tr>
			{/each}
		</tbody>
	</table>
	<div class="sticky bottom-0 z-10">
		<DecisionBar
			bind:this={bar}
			selected={meant}
			{wish}
			{offered}
			isAtOnce={meant.messages <= AT_ONCE}
			{...barProps}
			{onSend}
			onRefused={(message) => (refused = message)}
			{onDone}
		/>
	</div>
{/if}
<DropRail
	messages={dragged?.length}
	folders={lastUsedFirst(sheet.recent.folders, sheet.folders)}
	tags={lastUsedFirst(sheet.recent.tags, sheet.tags)}
	isAtOnce={(dragged?.length ?? 0) <= AT_ONCE}
	onLetGo={letGo}
/>
{#if hits.length > 0}{@render below?.(selection.ids)}{/if}
<PageTurner at={sheet.page} {pages} />

<MessageDrawer bind:id={open} marking={false} {version}>
	{#snippet actions(message)}
		{@const shownId = message.id}
		<div class="flex w-full flex-col gap-1" {@attach () => void (shownId === open && untrack(goOn))}>
			{#if openAt >= 0}
				<div class="flex items-center gap-2 text-sm">
					<button class="quiet px-2! py-0!" type="button" disabled={openAt === 0} onclick={() => openBeside(-1)}
						><ChevronLeftIcon size={14} aria-hidden="true" /> Previous <kbd class="text-xs">←</kbd></button
					>
					<button
						class="quiet px-2! py-0!"
						type="button"
						disabled={openAt === hits.length - 1}
						onclick={() => openBeside(1)}
						>Next <kbd class="text-xs">→</kbd> <ChevronRightIcon size={14} aria-hidden="true" /></button
					>
					<span class="text-ink-soft">{showCount(openAt + 1)} of {showCount(hits.length)} on this page</span>
				</div>
			{/if}
			<DecisionBar
				bind:this={drawerBar}
				selected={{ messages: 1, bytes: message.bytes }}
				wish={{ ids: [message.id] }}
				offered={decisionsFor([message.state as ItemState], 'administrator')}
				isAtOnce
				{...barProps}
				onSend={onSendInDrawer}
				onRefused={(sentence) => (refused = sentence)}
				onDone={onDoneInDrawer}
			/>
			<Refused message={refused} />
			<DecidedResults {decided} onTakenBack={() => (isDismissed = true)} />
			{#if message.listId !== null}<ListOfMessage mailboxId={message.mailboxId} listId={message.listId} />{/if}
		</div>
	{/snippet}
</MessageDrawer>

<style>
	/* the message a decision would apply to, also after the focus has left the row */
	tr.meant {
		outline: 2px dashed var(--stamp);
		outline-offset: -2px;
	}
	tr.selected {
		background: var(--stamp-soft);
	}
</style>
