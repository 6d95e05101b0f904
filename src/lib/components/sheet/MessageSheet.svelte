<script lang="ts">
	import ChevronLeftIcon from '@lucide/svelte/icons/chevron-left';
	import ChevronRightIcon from '@lucide/svelte/icons/chevron-right';
	import { type Snippet, tick, untrack } from 'svelte';
	import { page } from '$app/state';
	import type { DecisionResult } from '$lib/server/docket/index.ts';
	import type { MessagesPage } from '$lib/server/web/messages-page.ts';
	import { fromNowOnHref } from '$lib/from-now-on.ts';
	import { MessageSelection } from '$lib/message-selection.svelte.ts';
	import { type Column, HiddenColumns } from '$lib/hidden-columns.svelte.ts';
	import ColumnsMenu from '$lib/components/sheet/ColumnsMenu.svelte';
	import DecidedResults from '$lib/components/sheet/DecidedResults.svelte';
	import DecisionBar from '$lib/components/docket/DecisionBar.svelte';
	import DropRail from '$lib/components/docket/DropRail.svelte';
	import ListOfMessage from '$lib/components/message/ListOfMessage.svelte';
	import ThreadActions from '$lib/components/message/ThreadActions.svelte';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import MessageRow from '$lib/components/sheet/MessageRow.svelte';
	import SheetFilters from '$lib/components/sheet/SheetFilters.svelte';
	import PageTurner from '$lib/components/sheet/PageTurner.svelte';
	import type { DecisionOptions, ItemState } from '../../../core/docket/decision.ts';
	import { type Decision, DECISIONS, decisionsFor, ruleOf } from '../../../core/docket/decisions.ts';
	import { MESSAGE_HEADINGS } from '../../../core/search/orders.ts';
	import { showCount, showMessages } from '../../../core/weigh/units.ts';

	type Hit = MessagesPage['hits'][number];

	interface Props {
		/** The page's messages, and its address. */
		sheet: MessagesPage;
		/** Shown if there are no messages. */
		empty: Snippet;
		/** Whether each message's folder is shown; a folder's own page does not need it. */
		hasPlaces?: boolean;
		/** Shown below the sheet for the selected messages, or with none selected for all. */
		below?: Snippet<[readonly number[]]>;
		/** A first column of the page's own, with the heading that sorts by it. */
		column?: { title: string; key?: keyof typeof MESSAGE_HEADINGS; cell: Snippet<[Hit]> };
		/** Shown below a message's subject. */
		note?: Snippet<[Hit]>;
		/** Decisions of this page beside those of every sheet. */
		also?: readonly Decision[];
		/** What a colleague may do with messages; shown in place of the row of decisions. */
		actions?: Snippet<[readonly Hit[]]>;
		/** The result of the page's last post. */
		answer: { message?: string; decided?: DecisionResult[] } | null;
	}
	let { sheet, empty, hasPlaces = true, below, column, note, also = [], actions: permitted, answer }: Props = $props();

	const hits = $derived(sheet.hits);
	const pages = $derived(Math.ceil(sheet.rows / sheet.pageSize));
	const deciding = $derived(sheet.deciding);
	const most = $derived(deciding?.atOnce ?? 0);
	/* An owner takes back on the page of their mail. */
	const docketAction = $derived(deciding?.decider === 'owner' ? '/own/mail' : undefined);

	/* Properties of both rows of decisions: the sheet's, and the open message's. */
	const barProps = $derived(
		deciding && {
			folders: deciding.folders,
			archiveFolders: deciding.archiveFolders,
			tags: deciding.tags,
			recent: deciding.recent,
			series: deciding.series,
			holds: deciding.holds,
			action: `?/decide${page.url.search.replace('?', '&')}`,
			hasSeveralTags: true
		}
	);

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
		const weigh = (rows: readonly { bytes: number }[]) => rows.reduce((sum, { bytes }) => sum + bytes, 0);
		if (selection.isEverything)
			return {
				messages: sheet.total - selection.except.length,
				bytes: sheet.bytes - weigh(selection.except),
				states: sheet.search.states
			};
		const rows = selection.isEmpty ? (rowAt ? messagesOf(rowAt) : []) : selection.messages;
		return { messages: rows.length, bytes: weigh(rows), states: [...new Set(rows.map(({ state }) => state))] };
	});
	const wish = $derived({
		search: sheet.search,
		...(selection.isEverything
			? { without: selection.except.map(({ id }) => id) }
			: { ids: selection.isEmpty ? (rowAt ? messagesOf(rowAt).map(({ id }) => id) : []) : selection.ids })
	});
	const offeredFor = (states: readonly ItemState[]) => [
		...decisionsFor(states, deciding?.decider ?? 'colleague'),
		...also.filter((decision) => states.some((state) => ruleOf(decision).from.includes(state)))
	];
	// with nothing selected, the row shows the decisions possible on this page
	const offered = $derived(offeredFor(meant.states.length > 0 ? meant.states : sheet.search.states));

	/* A row that stands for a thread is all of its messages that are found. */
	function messagesOf(hit: Hit) {
		return [hit, ...hit.folded];
	}
	const selectRange = (from: number, to: number) =>
		selection.add(hits.slice(Math.max(0, Math.min(from, to)), Math.max(from, to) + 1).flatMap(messagesOf));
	const selectedHits = $derived(hits.filter(({ id }) => selection.has(id)));

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
			else selection.toggle(...messagesOf(hit));
			anchor = index;
		} else if (event.key === 'Enter') open = hit.id;
		else if (event.key === 'a' && (event.ctrlKey || event.metaKey)) selection.toggle(...hits.flatMap(messagesOf));
		else if (event.key === 'Escape') selection.clear();
		else return;
		event.preventDefault();
	}

	/* A key that is held down decides once. */
	const isDigit = (event: KeyboardEvent) =>
		/^[1-9]$/.test(event.key) && !event.repeat && !event.ctrlKey && !event.altKey && !event.metaKey;

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
	const openHit = $derived(hits[openAt]);

	function openBeside(step: number) {
		const beside = hits[openAt + step];
		if (openAt >= 0 && beside) open = beside.id;
	}

	/* ---- decisions ---- */

	let refused = $state<string>();

	/* Marking as junk moves too; a hold does not. */
	const movesAway = (decision: string) =>
		decision !== 'hold' &&
		(!(DECISIONS as readonly string[]).includes(decision) || ruleOf(decision as Decision).to !== undefined);

	function begin() {
		refused = undefined;
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
	function onSendInDrawer(decision: string) {
		begin();
		if (!movesAway(decision)) return stop;
		// the next message is shown at once; the decided one comes back where the server refuses
		const decidedOn = open;
		if (decidedOn !== undefined) selection.remove(decidedOn);
		open = (hits[openAt + 1] ?? hits[openAt - 1])?.id;
		return () => {
			stop();
			open = decidedOn;
		};
	}

	function onDoneInDrawer(decision: string) {
		if (!movesAway(decision)) version++;
		goOn();
	}
	$effect(() => {
		if (open === undefined) stop();
	});
	// what a colleague does with an open message shows in it
	$effect(() => {
		void hits;
		if (!untrack(() => deciding)) untrack(() => version++);
	});

	const decided = $derived(answer?.decided ?? []);

	/* ---- dragging ---- */

	const lastUsedFirst = (recent: readonly string[], all: readonly string[]) => [
		...new Set([...recent.filter((name) => all.includes(name)), ...all])
	];
	/* The selected messages, or another one. */
	let dragged = $state<number[]>();
	function drag(hit: Hit, event?: DragEvent) {
		if (!event) {
			dragged = undefined;
			return;
		}
		event.dataTransfer?.setData('text/plain', hit.subject);
		dragged = selection.has(hit.id) && !selection.isEverything ? selection.ids : messagesOf(hit).map(({ id }) => id);
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

	/* Read from the messages after the page is shown; the last ones stay while others are read. */
	let excerpts = $state.raw<Awaited<MessagesPage['excerpts']>>({});
	$effect(() => {
		// the sheet may be gone before they come
		let isShown = true;
		void sheet.excerpts.then((read) => {
			if (isShown) excerpts = read;
		});
		return () => {
			isShown = false;
		};
	});

	const columns = new HiddenColumns();
	const shows = (which: Column) => columns.shows(which);

	/* Threads as rows, or each message. */
	const foldedHref = $derived.by(() => {
		const address = new URL(page.url);
		if (sheet.isFolded) address.searchParams.delete('threads');
		else address.searchParams.set('threads', '1');
		address.searchParams.delete('page');
		return address.pathname + address.search;
	});
</script>

<svelte:window onkeydown={onWindowKey} />

{#snippet heading(name: string, key: keyof typeof MESSAGE_HEADINGS)}
	<a class="lead" href={hrefOf(orderOf(MESSAGE_HEADINGS[key]))} data-sveltekit-noscroll
		>{name}<span aria-hidden="true">{arrow(MESSAGE_HEADINGS[key])}</span></a
	>
{/snippet}

<div class="my-2 flex flex-col gap-2">
	<Refused message={refused ?? answer?.message} />
	{#if open === undefined}<DecidedResults {decided} {docketAction} />{/if}
</div>

<div class="pb-1.5">
	<SheetFilters
		choices={sheet.choices}
		narrowing={sheet.search.narrowing}
		fixed={sheet.fixed}
		counted={sheet.totalIsMore ? sheet.total : undefined}
	/>
</div>
<div class="flex flex-wrap items-center gap-3 pb-1.5">
	<p role="status" data-testid="total">
		<b>{sheet.totalIsMore ? 'More than ' : ''}{showMessages(sheet.total)}</b>{sheet.search.query
			? ' found'
			: ''}{#if sheet.isFolded}&nbsp;in {showCount(sheet.rows)} {sheet.rows === 1 ? 'row' : 'rows'}{/if}{#if pages > 1},
			page {sheet.page} of {showCount(pages)}{/if}
	</p>
	<span class="text-ink-soft text-sm max-md:hidden"
		>↑ ↓ move, space selects, Enter opens{deciding ? ', digits decide' : ''}</span
	>
	<span class="ml-auto flex gap-2">
		{#if pages > 1 && !sheet.totalIsMore && deciding}
			<button
				class="quiet text-sm"
				type="button"
				aria-pressed={selection.isEverything}
				onclick={() => selection.toggleEverything()}
				>{selection.isEverything ? 'Clear selection' : `Select all ${showCount(sheet.total)}`}</button
			>
		{/if}
		{#if deciding?.decider === 'administrator' && sheet.search.query && sheet.search.mailbox !== undefined}<a
				class="quiet text-sm"
				href={fromNowOnHref(sheet.search.mailbox, { query: sheet.search.query })}>The same from now on …</a
			>{/if}
		<a class="quiet text-sm" href={foldedHref} data-sveltekit-noscroll
			>{sheet.isFolded ? 'Each message' : 'Fold by thread'}</a
		>
		<ColumnsMenu {columns} />
	</span>
</div>

{#if hits.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">{@render empty()}</p>
{:else}
	<table class="sheet messages table-fixed">
		<thead>
			<tr>
				<th class="w-9"
					><input
						type="checkbox"
						aria-label="Select the messages of this page"
						checked={hits.every(({ id }) => selection.has(id))}
						onchange={() => selection.toggle(...hits.flatMap(messagesOf))}
					/></th
				>
				{#if column}<th class="w-28"
						>{#if column.key}{@render heading(column.title, column.key)}{:else}{column.title}{/if}</th
					>{/if}
				{#if shows('received')}<th class="w-28">{@render heading('Received', 'received')}</th>{/if}
				{#if shows('from')}<th class="w-44">{@render heading('From', 'from')}</th>{/if}
				<th
					>{@render heading('Subject', 'subject')}<span class="ml-3 font-normal"
						>{@render heading('important first', 'importance')}
						<span class="ml-3">{@render heading('by tag', 'tag')}</span>{#if shows('files')}
							<span class="ml-3">{@render heading('most attachments first', 'attachments')}</span>{/if}</span
					></th
				>
				{#if hasPlaces}<th class="w-28">{@render heading('State', 'state')}</th>{/if}
				{#if shows('size')}<th class="number w-20">{@render heading('Size', 'size')}</th>{/if}
			</tr>
		</thead>
		<tbody bind:this={body}>
			{#each hits as hit, index (hit.id)}
				<MessageRow
					{hit}
					excerpt={excerpts[hit.id] ?? []}
					{columns}
					{hasPlaces}
					hasFolderPages={deciding?.decider === 'administrator'}
					isSelected={selection.has(hit.id)}
					isMeant={index === at && selection.isEmpty && deciding !== undefined}
					column={column?.cell}
					{note}
					onToggle={() => selection.toggle(...messagesOf(hit))}
					onOpen={() => (open = hit.id)}
					onKey={(event) => onRowKey(event, hit, index)}
					onFocus={() => (at = index)}
					onDrag={deciding && hit.state === 'live' ? (event) => drag(hit, event) : undefined}
				/>
			{/each}
		</tbody>
	</table>
	<div class="sticky bottom-0 z-10">
		{#if barProps}
			<DecisionBar
				bind:this={bar}
				selected={meant}
				{wish}
				{offered}
				isAtOnce={meant.messages <= most}
				{...barProps}
				{onSend}
				onRefused={(message) => (refused = message)}
				{onDone}
			/>
		{:else if permitted}
			<div class="decide below">{@render permitted(selectedHits)}</div>
		{/if}
	</div>
{/if}
{#if deciding}
	<DropRail
		messages={dragged?.length}
		folders={lastUsedFirst(deciding.recent.folders, deciding.folders)}
		tags={lastUsedFirst(deciding.recent.tags, deciding.tags)}
		isAtOnce={(dragged?.length ?? 0) <= most}
		onLetGo={letGo}
	/>
{/if}
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
			{#if barProps}
				<DecisionBar
					bind:this={drawerBar}
					selected={{ messages: 1, bytes: message.bytes }}
					wish={{ search: sheet.search, ids: [message.id] }}
					offered={offeredFor([message.state as ItemState])}
					isAtOnce={most > 0}
					{...barProps}
					onSend={onSendInDrawer}
					onRefused={(sentence) => (refused = sentence)}
					onDone={onDoneInDrawer}
				/>
			{:else if permitted && openHit}{@render permitted([openHit])}{/if}
			<Refused message={refused} />
			<DecidedResults {decided} {docketAction} />
			{#if deciding?.decider === 'administrator'}<div class="flex flex-wrap items-center gap-2">
					<ThreadActions
						mailboxId={message.mailboxId}
						itemId={message.id}
						ids={[message.id]}
						isArchived={message.state === 'archived'}
						folders={deciding.folders}
						listId={message.listId}
						address={message.fromAddress}
						onSend={() => onSendInDrawer('archive')}
						onRefused={(sentence) => (refused = sentence)}
						onDone={() => onDoneInDrawer('archive')}
					/>
				</div>{/if}
			{#if message.listId !== null && deciding?.decider === 'administrator'}<ListOfMessage
					mailboxId={message.mailboxId}
					listId={message.listId}
				/>{/if}
		</div>
	{/snippet}
</MessageDrawer>
