<script lang="ts">
	import Drawer from '$lib/components/frames/Drawer.svelte';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import MessageTable from '$lib/components/sheet/MessageTable.svelte';
	import type { ListInFull } from '$lib/server/lists/index.ts';
	import type { LotItem } from '$lib/server/lots/index.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { WAY_NAMES } from '../../../core/lists/ways.ts';
	import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';

	let { id = $bindable(), mailboxId }: { id: number | undefined; mailboxId: number } = $props();

	const PART = 50;
	let shown = $state.raw<ListInFull>();
	let items = $state.raw<LotItem[]>([]);
	let total = $state(0);
	let wrong = $state<string>();
	let reading = $state<number>();

	async function read<T>(address: string): Promise<T> {
		const answer = await fetch(address);
		const body = (await answer.json()) as T & { message?: string };
		if (!answer.ok) throw new Error(body.message ?? 'The list cannot be shown.');
		return body;
	}

	async function more(of: number, offset: number) {
		try {
			const part = await read<{ items: LotItem[]; total: number }>(
				`/m/${mailboxId}/clear/lots/part?by=list&key=${of}&offset=${offset}&limit=${PART}`
			);
			if (id !== of) return;
			items = offset === 0 ? part.items : [...items, ...part.items];
			total = part.total;
		} catch (error) {
			wrong = error instanceof Error ? error.message : 'The server does not answer.';
		}
	}

	$effect(() => {
		const wanted = id;
		shown = undefined;
		items = [];
		total = 0;
		wrong = undefined;
		if (wanted === undefined) return;
		void read<ListInFull>(`/m/${mailboxId}/lists/${wanted}`)
			.then((found) => {
				if (id === wanted) shown = found;
			})
			.catch((error: unknown) => (wrong = error instanceof Error ? error.message : 'The server does not answer.'));
		void more(wanted, 0);
	});

	const hostOf = (url: string) => (URL.canParse(url) ? new URL(url).hostname : url);
</script>

<Drawer
	open={id !== undefined && reading === undefined}
	onClose={() => {
		if (reading === undefined) id = undefined;
	}}
	title={shown?.list.name ?? 'List'}
	width="52rem"
>
	{#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
	{#if !shown}
		<p role="status">Opening …</p>
	{:else}
		{@const { list } = shown}
		<dl class="grid grid-cols-[7rem_1fr] gap-x-3 gap-y-0.5 text-sm">
			<dt class="text-ink-soft">Known as</dt>
			<dd class="break-all">{list.identifier}</dd>
			<dt class="text-ink-soft">Wrote</dt>
			<dd>
				{showMessages(list.messages)} ({showBytes(list.bytes)}) from {list.first ? showDate(list.first) : 'long ago'} to
				{list.last ? showDate(list.last) : 'now'}, from {showCount(list.addresses)}
				{list.addresses === 1 ? 'address' : 'addresses'}; in {list.mailboxes.join(', ')}
			</dd>
			<dt class="text-ink-soft">Sender</dt>
			<dd>
				{list.known ? 'Known: somebody here has written to them, or it is trusted.' : 'A stranger.'}
				{list.verdictSentence}
			</dd>
			<dt class="text-ink-soft">Advice</dt>
			<dd class="font-semibold">{shown.advice}</dd>
		</dl>
		<section aria-labelledby="ways">
			<h2 id="ways" class="text-base">How it can be left</h2>
			{#if shown.ways.length === 0}<p class="text-sm">It does not say.</p>{/if}
			<ol class="mt-0.5 list-inside list-decimal text-sm">
				{#each shown.ways as way (way.kind)}
					<li class="[overflow-wrap:anywhere]">
						<b>{WAY_NAMES[way.kind]}</b>:
						{#if way.kind === 'mail'}
							to {way.to}, subject “{way.subject || 'unsubscribe'}”{#if way.body}, text “{way.body}”{/if}
						{:else if way.kind === 'footer'}
							“{way.sentence}”{#if way.target}, which leads to <b>{hostOf(way.target)}</b>{/if}
						{:else if way.kind === 'link'}
							<a class="lead" href={way.url} target="_blank" rel="noopener noreferrer nofollow external">{way.url}</a>,
							which leads to <b>{hostOf(way.url)}</b>
						{:else}
							a request to <b>{hostOf(way.url)}</b>: {way.url}
						{/if}
					</li>
				{/each}
			</ol>
			{#if shown.noClick && shown.ways.length > 0}<p class="text-ink-soft text-xs">
					Not by one request: {shown.noClick}.
				</p>{/if}
		</section>
		{#if shown.attempts.length > 0}
			<section aria-labelledby="attempts">
				<h2 id="attempts" class="text-base">What was tried</h2>
				<ul class="text-sm">
					{#each shown.attempts as attempt (attempt.id)}
						<li>
							{showDate(attempt.on)}, {WAY_NAMES[attempt.way]}, by {attempt.who}: {attempt.state.replace(
								'-',
								' '
							)}{attempt.answer ? ` (${attempt.answer})` : ''}
						</li>
					{/each}
				</ul>
			</section>
		{/if}
		<div class="min-h-0 flex-1 overflow-auto">
			<MessageTable {items} onOpen={(item) => (reading = item)} />
			{#if total === 0}<p class="p-2 text-sm">None of its mail lies in a folder.</p>{/if}
			{#if items.length < total}
				<button class="quiet mt-2" type="button" onclick={() => id !== undefined && more(id, items.length)}
					>Show more of {showCount(total)}</button
				>
			{/if}
		</div>
	{/if}
</Drawer>
<MessageDrawer bind:id={reading} />
