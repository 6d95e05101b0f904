<script lang="ts">
	import { untrack } from 'svelte';
	import { SvelteMap } from 'svelte/reactivity';
	import { enhance } from '$lib/enhance.ts';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import ListDecisionBar from '$lib/components/docket/ListDecisionBar.svelte';
	import MonthBars from '$lib/components/charts/MonthBars.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { jobs } from '$lib/jobs.svelte.ts';
	import type { ListRow, ListsPart } from '$lib/server/lists/index.ts';
	import type { ListsAddress } from '$lib/server/web/lists-address.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { WAY_NAMES } from '../../../core/lists/ways.ts';
	import { showBytes, showCount, showMessages, showShare } from '../../../core/weigh/units.ts';

	interface Props {
		asked: ListsAddress;
		/** How many of the newest messages are looked at first. */
		newest: number;
		first: ListsPart;
		/** The address of further parts. */
		partAddress: string;
		/** Whether several mailboxes are shown as one. */
		isSeveral?: boolean;
		form: unknown;
	}
	let { asked, newest, first, partAddress, isSeveral = false, form }: Props = $props();

	const answer = $derived(form as { message?: string; trusted?: number; byHand?: boolean; graceSet?: boolean } | null);
	// a refused setting leaves it open
	let isGraceOpen = $state(untrack(() => answer?.graceSet === true));
	let more = $state.raw<ListRow[]>([]);
	let loading = $state(false);
	let refused = $state<string>();
	let bar = $state<ReturnType<typeof ListDecisionBar>>();
	// the selection stays when the filter changes
	const selected = new SvelteMap<number, ListRow>();

	const lists = $derived([...first.lists, ...more]);
	const total = $derived(first.total);
	const isAsking = $derived(jobs.running.some(({ useCase }) => useCase === 'leaveLists'));
	const allSelected = $derived(
		lists.length > 0 && selected.size >= total.lists && lists.every(({ id }) => selected.has(id))
	);

	$effect(() => {
		void first;
		more = [];
	});

	const SHOW = {
		all: 'all',
		known: 'known senders',
		strangers: 'strangers',
		'never-read': 'never read',
		'still-writing': 'still writing',
		blocked: 'blocked',
		digest: 'in the digest'
	};

	async function part(parameters: Record<string, string>): Promise<ListsPart | undefined> {
		const address = new URL(partAddress + page.url.search, page.url);
		for (const [name, value] of Object.entries(parameters)) address.searchParams.set(name, value);
		loading = true;
		try {
			const response = await fetch(address);
			const body = (await response.json()) as ListsPart & { message?: string };
			if (response.ok) return body;
			refused = body.message ?? 'The lists cannot be shown.';
		} catch {
			refused = 'The server does not answer.';
		} finally {
			loading = false;
		}
		return undefined;
	}

	async function showMore() {
		const next = await part({ offset: String(lists.length), limit: '200' });
		if (next) more = [...more, ...next.lists];
	}

	async function selectAll() {
		if (allSelected) {
			selected.clear();
			return;
		}
		const whole = lists.length === total.lists ? lists : (await part({ offset: '0', limit: '10000' }))?.lists;
		for (const list of whole ?? []) selected.set(list.id, list);
	}

	function toggle(list: ListRow) {
		if (selected.has(list.id)) selected.delete(list.id);
		else selected.set(list.id, list);
	}

	let last: number | undefined;
	function onRowKey(event: KeyboardEvent & { currentTarget: HTMLTableRowElement }, list: ListRow, at: number) {
		if (event.target !== event.currentTarget) return;
		const rows = [...(event.currentTarget.parentElement?.querySelectorAll<HTMLElement>('tr[data-list]') ?? [])];
		const here = rows.indexOf(event.currentTarget);
		if (event.key === ' ' && event.shiftKey && last !== undefined) {
			for (const between of lists.slice(Math.min(last, at), Math.max(last, at) + 1)) selected.set(between.id, between);
		} else if (event.key === ' ') toggle(list);
		else if (event.key === 'Enter') void goto(`/m/${list.mailboxId}/lists/${list.id}`);
		else if (event.key === 'ArrowDown') rows[here + 1]?.focus();
		else if (event.key === 'ArrowUp') rows[here - 1]?.focus();
		else if (/^[1-4]$/.test(event.key)) bar?.pressDigit(Number(event.key));
		else return;
		if (event.key === ' ') last = at;
		event.preventDefault();
	}

	function show(parameters: Record<string, string>) {
		const address = new URL(page.url);
		for (const [name, value] of Object.entries(parameters))
			if (value === '') address.searchParams.delete(name);
			else address.searchParams.set(name, value);
		void goto(address, { keepFocus: true, noScroll: true });
	}

	/* The same page with all lists, or with the newest alone; the selection of mailboxes stays. */
	function withAll(all: string, only = ''): string {
		const several = page.url.searchParams.get('in');
		const parts = [several && `in=${several}`, all && `all=${all}`, only && `show=${only}`];
		return `?${parts.filter(Boolean).join('&')}`;
	}
	const action = (name: string) => `?/${name}${page.url.search.replace('?', '&')}`;

	/* Shown above the lists of an organisation with several. */
	const starts = (at: number) => {
		const { organisation } = lists[at] as ListRow;
		return (
			organisation !== '' &&
			lists[at - 1]?.organisation !== organisation &&
			lists[at + 1]?.organisation === organisation
		);
	};
	const ofOrganisation = (organisation: string) => lists.filter((list) => list.organisation === organisation);
</script>

<div class="mb-2 flex flex-wrap items-baseline gap-x-5 gap-y-1">
	<h1>
		{asked.all
			? 'All lists'
			: `Who wrote the newest ${showCount(newest)} messages${isSeveral ? ' of each mailbox' : ''}`}
	</h1>
	<a class="lead text-sm" href={withAll(asked.all ? '' : '1')}
		>{asked.all ? `Only those among the newest ${showCount(newest)}` : 'All lists'}</a
	>
</div>
<Refused message={refused ?? answer?.message} />
{#if answer?.trusted !== undefined}<p role="status" class="mb-2">
		{showCount(answer.trusted)}
		{answer.trusted === 1 ? 'list is' : 'lists are'} trusted from now on.
	</p>{/if}
{#if first.stillWriting > 0 && asked.show !== 'still-writing'}
	<p class="wrong mb-2">
		{showCount(first.stillWriting)}
		{first.stillWriting === 1 ? 'list still writes' : 'lists still write'} more than {first.graceDays} days after being asked
		to stop.
		<a class="lead" href={withAll('1', 'still-writing')}>Review them, and block them</a>
	</p>
{/if}
{#if first.waiting > 0 && !isAsking}
	<form class="mb-2" method="post" action={action('ask')} use:enhance>
		{showCount(first.waiting)}
		{first.waiting === 1 ? 'list waits' : 'lists wait'} to be asked to stop: asking was stopped or cut off.
		<button class="lead">Ask now</button>
	</form>
{/if}

<form
	class="mb-2 flex flex-wrap items-center gap-3 text-sm"
	role="search"
	onsubmit={(event) => {
		event.preventDefault();
		show({ q: String(new FormData(event.currentTarget).get('q') ?? '') });
	}}
>
	<label class="flex items-center gap-2"
		>Named <input class="field w-52" type="search" name="q" value={asked.q} maxlength="200" /></label
	>
	<label class="flex items-center gap-2"
		>Show
		<select class="field" value={asked.show} onchange={(event) => show({ show: event.currentTarget.value })}>
			{#each Object.entries(SHOW) as [value, name] (value)}<option {value}>{name}</option>{/each}
		</select></label
	>
	<span class="ml-auto" data-testid="lists-total"
		>{showCount(total.lists)}
		{total.lists === 1 ? 'list' : 'lists'}, {showMessages(total.messages)} ({showBytes(total.bytes)})</span
	>
</form>

<ListDecisionBar
	bind:this={bar}
	lists={[...selected.values()]}
	onSend={() => {
		refused = undefined;
		const sent = [...selected];
		selected.clear();
		return () => {
			if (selected.size === 0) for (const [id, list] of sent) selected.set(id, list);
		};
	}}
	onRefused={(message) => (refused = message)}
/>

{#if total.lists === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		{asked.q || asked.show !== 'all'
			? 'No list is like that.'
			: 'No list or bulk sender writes here. They are found by their headers, and by footers that offer to unsubscribe.'}
		{#if !asked.all}<a class="lead" href={withAll('1')}>Show all lists</a>.{/if}
	</p>
{:else}
	<table class="sheet table-fixed">
		<thead>
			<tr>
				<th class="w-9"
					><input
						type="checkbox"
						checked={allSelected}
						onchange={selectAll}
						aria-label="Select all {total.lists}"
					/></th
				>
				<th>List</th>
				<th class="w-44">{asked.all ? 'Messages, by month' : 'Newest, and all'}</th>
				<th class="number w-20">Size</th>
				<th class="w-32">Read</th>
				<th class="w-28">Last wrote</th>
				<th class="w-52">How to unsubscribe</th>
			</tr>
		</thead>
		<tbody>
			{#each lists as list, at (list.id)}
				{#if starts(at)}
					{@const of = ofOrganisation(list.organisation)}
					<tr class="organisation"
						><td></td><td colspan="6"
							><b>{list.organisation}</b>: {showCount(of.length)} lists
							<button
								class="lead ml-2 text-sm"
								type="button"
								onclick={() => of.forEach((one) => selected.set(one.id, one))}>select them</button
							></td
						></tr
					>
				{/if}
				<tr
					data-list
					tabindex="0"
					onkeydown={(event) => onRowKey(event, list, at)}
					class:selected={selected.has(list.id)}
				>
					<td
						><input
							type="checkbox"
							tabindex="-1"
							checked={selected.has(list.id)}
							onchange={() => toggle(list)}
							aria-label="Select {list.name}"
						/></td
					>
					<td class="truncate">
						<a
							class="lead block max-w-full truncate font-semibold"
							tabindex="-1"
							href="/m/{list.mailboxId}/lists/{list.id}">{list.name}</a
						>
						<span class="text-ink-soft text-xs" title={list.identifier}
							>{list.known ? '' : 'stranger · '}{list.organisation || list.identifier}{list.addresses > 1
								? ` · ${showCount(list.addresses)} addresses`
								: ''}{list.mailboxes.length > 1 ? ` · in ${showCount(list.mailboxes.length)} mailboxes` : ''}</span
						>
					</td>
					<td
						><span class="flex items-center gap-2"
							><span class="w-20 text-right"
								>{#if !asked.all}<b>{showCount(list.inNewest)}</b> of&nbsp;{/if}{showCount(list.messages)}</span
							><MonthBars months={list.months} /></span
						></td
					>
					<td class="number">{showBytes(list.bytes)}</td>
					<td class="text-sm">
						{#if list.readKnown === 0}not known{:else if list.read === 0}never{:else}{showShare(
								list.read,
								list.readKnown
							)}
							{#if list.lastRead}<span class="text-ink-soft block text-xs">last of {showDate(list.lastRead)}</span
								>{/if}{/if}
					</td>
					<td class="text-sm whitespace-nowrap">{list.last ? showDate(list.last) : 'not dated'}</td>
					<td class="text-sm">
						{#if list.verdict === 'block'}<b class="text-wax">blocked</b>
						{:else if list.standing !== 'subscribed'}<b
								class:text-wax={['still-writing', 'failed', 'unknown'].includes(list.standing)}
								>{list.standingSentence}</b
							>
							{#if list.standing === 'by-hand'}
								<form method="post" action="/m/{list.mailboxId}/lists?/unsubscribedByHand" use:enhance class="inline">
									<input type="hidden" name="id" value={list.id} /><button class="lead">I have unsubscribed</button>
								</form>
							{/if}
						{:else if list.inDigest}folded into the digest
						{:else}{list.ways[0] ? WAY_NAMES[list.ways[0]] : 'not stated'}{/if}
						{#if list.verdict === 'trust'}<span class="text-ink-soft">· trusted</span>{/if}
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
	<p class="text-ink-soft mt-1 text-xs">
		↑ ↓ move, space selects, shift and space a range, Enter opens, 1 to 4 decide. A bar for each of the last twelve
		months.
	</p>
	{#if loading}<p role="status" class="p-1">Listing …</p>{/if}
	{#if lists.length < total.lists && !loading}
		<button class="quiet mt-2" type="button" onclick={showMore}
			>Show more: {showCount(total.lists - lists.length)} follow</button
		>
	{/if}
{/if}

<details class="mt-5" bind:open={isGraceOpen}>
	<summary class="cursor-pointer text-sm font-semibold">Days of grace</summary>
	<form
		method="post"
		action={action('grace')}
		use:enhance
		class="bg-sheet border-rule-strong mt-1 flex items-center gap-2 border p-3 text-sm"
	>
		<label class="flex items-center gap-2"
			>A list that was asked to stop may go on for <input
				class="field w-20"
				type="number"
				name="days"
				min="0"
				max="365"
				value={first.graceDays}
				required
			/> days</label
		>
		<button class="quiet">Set</button>
		{#if answer?.graceSet}<span role="status">Saved.</span>{/if}
	</form>
</details>

<style>
	.organisation td {
		background: var(--docket);
	}
	.selected {
		background: var(--stamp-soft);
	}
</style>
