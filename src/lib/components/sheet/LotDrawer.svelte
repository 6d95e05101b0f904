<script lang="ts">
	import type { Snippet } from 'svelte';
	import Drawer from '$lib/components/frames/Drawer.svelte';
	import { page } from '$app/state';
	import type { LotItem, SheetRows } from '$lib/server/lots/index.ts';
	import DropRail from '$lib/components/docket/DropRail.svelte';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import MessageTable from '$lib/components/sheet/MessageTable.svelte';
	import TagMark from '$lib/components/message/TagMark.svelte';
	import type { DecisionOptions } from '../../../core/docket/decision.ts';
	import type { Decision } from '../../../core/docket/decisions.ts';
	import type { Grouping, Lot } from '../../../core/lots/lots.ts';
	import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';

	interface Props {
		lot: Lot | undefined;
		by: Grouping;
		partAddress: string;
		/** Whether the whole lot is selected: marking a message then leaves it out, else adds it. */
		isChosen: boolean;
		isIn: (item: LotItem) => boolean;
		onToggle: (item: LotItem) => void;
		folders: readonly string[];
		tags: readonly string[];
		/** How many messages are dragged; undefined: none. */
		draggedMessages: number | undefined;
		onDrag: (item: LotItem | undefined) => void;
		onLetGo: (decision: Decision, options: DecisionOptions) => void;
		/** The row of decisions, and the key that decides by it. */
		decisions: Snippet;
		onDigit: (digit: number) => void;
		/** Another number loads the messages again. */
		version: number;
	}
	let {
		lot = $bindable(),
		by,
		partAddress,
		isChosen,
		isIn,
		onToggle,
		folders,
		tags,
		draggedMessages,
		onDrag,
		onLetGo,
		decisions,
		onDigit,
		version
	}: Props = $props();

	const PART = 100;
	let items = $state.raw<LotItem[]>([]);
	let addresses = $state.raw<Lot[]>([]);
	let total = $state(0);
	let wrong = $state<string>();
	let loading = $state(false);
	let reading = $state<number>();

	async function ask(parameters: Record<string, string>): Promise<Response> {
		const address = new URL(partAddress + page.url.search, page.url);
		for (const [name, value] of Object.entries(parameters)) address.searchParams.set(name, value);
		return fetch(address);
	}

	async function more(of: Lot, offset: number) {
		loading = true;
		wrong = undefined;
		try {
			const answer = await ask({ key: of.key, offset: String(offset), limit: String(PART) });
			const body = (await answer.json()) as { items: LotItem[]; total: number; message?: string };
			if (lot !== of) return;
			if (answer.ok) {
				items = offset === 0 ? body.items : [...items, ...body.items];
				total = body.total;
			} else wrong = body.message ?? 'The lot cannot be shown.';
		} catch {
			wrong = 'The server does not answer.';
		} finally {
			loading = false;
		}
	}

	async function askAddresses(of: Lot) {
		const answer = await ask({ key: of.key, inside: 'correspondent', offset: '0', limit: '50' });
		if (answer.ok && lot === of) addresses = ((await answer.json()) as SheetRows).lots;
	}

	$effect(() => {
		const wanted = lot;
		void version;
		items = [];
		addresses = [];
		total = 0;
		if (!wanted) return;
		void more(wanted, 0);
		if (by === 'organisation') void askAddresses(wanted);
	});

	function onKey(event: KeyboardEvent) {
		const target = event.target as HTMLElement;
		if (lot === undefined || reading !== undefined || event.ctrlKey || event.altKey || event.metaKey) return;
		if (!/^[1-9]$/.test(event.key) || target.closest('input:not([type=checkbox]), textarea, select')) return;
		onDigit(Number(event.key));
		event.preventDefault();
	}
</script>

<svelte:window onkeydown={onKey} />

<Drawer
	open={lot !== undefined && reading === undefined}
	onClose={() => {
		if (reading === undefined) lot = undefined;
	}}
	title={lot?.label ?? 'Lot'}
	width="62rem"
>
	{#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
	<p class="text-sm">
		{showMessages(lot?.messages ?? 0)} ({showBytes(lot?.bytes ?? 0)}).
		{isChosen
			? 'The whole lot is selected: clear a message to leave it out.'
			: 'Select single messages to decide on them alone.'}
	</p>
	{#if addresses.length > 1}
		<details>
			<summary class="cursor-pointer text-sm font-semibold">{showCount(addresses.length)} addresses</summary>
			<ul class="mt-1 max-h-32 columns-2 overflow-auto text-sm">
				{#each addresses as address (address.key)}
					<li class="truncate" title={address.label}>
						{address.label}: {showCount(address.messages)} ({showBytes(address.bytes)})
					</li>
				{/each}
			</ul>
		</details>
	{/if}
	<div class="min-h-0 flex-1 overflow-auto">
		<MessageTable {items} onOpen={(id) => (reading = id)} selecting={{ isIn, toggle: onToggle }} {onDrag}>
			{#snippet beside(item)}
				{#if item.flagged}<b class="text-xs" title="flagged">flag</b>{/if}
				{#if item.kept}<b class="text-xs" title="kept">kept</b>{/if}
				{#if item.pauseId}<b class="text-xs" title="under a pause">paused</b>{/if}
				{#each item.tags as tag (tag.id)}
					<TagMark {tag} />{/each}
			{/snippet}
		</MessageTable>
		{#if loading}<p role="status" class="p-2">Opening …</p>{/if}
		{#if items.length < total && lot && !loading}
			<button class="quiet mt-2" type="button" onclick={() => lot && more(lot, items.length)}
				>Show {showCount(Math.min(PART, total - items.length))} more of {showCount(total)}</button
			>
		{/if}
	</div>
	{#if lot}{@render decisions()}{/if}
	<DropRail messages={draggedMessages} {folders} {tags} {onLetGo} />
</Drawer>
<MessageDrawer bind:id={reading} />
