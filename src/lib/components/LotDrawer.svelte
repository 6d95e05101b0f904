<script lang="ts">
	import XIcon from '@lucide/svelte/icons/x';
	import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
	import { page } from '$app/state';
	import type { LotItem, SheetRows } from '$lib/server/work/lots.ts';
	import DropRail from '$lib/components/DropRail.svelte';
	import MessageDrawer from '$lib/components/MessageDrawer.svelte';
	import TagMark from '$lib/components/TagMark.svelte';
	import { showDate } from '../../core/calendar.ts';
	import type { Decision, DecisionOptions } from '../../core/docket/decisions.ts';
	import type { Grouping, Lot } from '../../core/lots/lots.ts';
	import { showBytes, showCount, showMessages } from '../../core/weigh/units.ts';

	interface Props {
		lot: Lot | undefined;
		by: Grouping;
		partAddress: string;
		/** Whether the whole lot is chosen: messages are then left out, else added. */
		isChosen: boolean;
		isIn: (item: LotItem) => boolean;
		onToggle: (item: LotItem) => void;
		folders: readonly string[];
		tags: readonly string[];
		/** How many messages are dragged; undefined: none. */
		draggedMessages: number | undefined;
		onDrag: (item: LotItem | undefined) => void;
		onLetGo: (decision: Decision, options: DecisionOptions) => void;
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
		onLetGo
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
		items = [];
		addresses = [];
		total = 0;
		if (!wanted) return;
		void more(wanted, 0);
		if (by === 'organisation') void askAddresses(wanted);
	});
</script>

<Dialog
	open={lot !== undefined && reading === undefined}
	onOpenChange={({ open }) => {
		if (!open && reading === undefined) lot = undefined;
	}}
>
	<Portal>
		<Dialog.Backdrop class="fixed inset-0 z-40 bg-black/30" />
		<Dialog.Positioner class="fixed inset-0 z-50 flex justify-end">
			<Dialog.Content
				class="bg-paper border-rule-strong flex h-full w-[52rem] max-w-full flex-col gap-3 border-l p-5 shadow-xl"
			>
				<header class="flex items-start justify-between gap-4">
					<Dialog.Title class="text-lg leading-snug font-semibold" style="font-family: 'Besley Variable', serif"
						>{lot?.label ?? 'Lot'}</Dialog.Title
					>
					<Dialog.CloseTrigger class="quiet shrink-0"
						><XIcon size={16} aria-hidden="true" /> Close <kbd class="text-xs">Esc</kbd></Dialog.CloseTrigger
					>
				</header>
				{#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
				<p class="text-sm">
					{showMessages(lot?.messages ?? 0)} ({showBytes(lot?.bytes ?? 0)}).
					{isChosen
						? 'The whole lot is chosen: take the mark off a message to leave it out.'
						: 'Mark single messages to decide on them alone.'}
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
					<table class="sheet table-fixed">
						<thead
							><tr
								><th class="w-9"><span class="sr-only">In the decision</span></th><th class="w-28">Received</th><th
									class="w-44">From</th
								><th>Subject</th><th class="w-32">Folder</th><th class="number w-20">Size</th></tr
							></thead
						>
						<tbody>
							{#each items as item (item.id)}
								<tr
									draggable="true"
									ondragstart={(event) => {
										event.dataTransfer?.setData('text/plain', item.subject);
										onDrag(item);
									}}
									ondragend={() => onDrag(undefined)}
								>
									<td
										><input
											type="checkbox"
											checked={isIn(item)}
											onchange={() => onToggle(item)}
											aria-label="Decide on {item.subject || 'message without subject'}"
										/></td
									>
									<td class="whitespace-nowrap"
										>{item.receivedOn ? showDate(item.receivedOn) : 'undated'}{#if item.dateInDoubt}<span
												class="text-wax block text-xs">date in doubt</span
											>{/if}</td
									>
									<td class="truncate" title={item.fromAddress}>{item.fromName || item.fromAddress}</td>
									<td class="truncate">
										<button
											class="lead"
											class:font-semibold={item.seen === 0}
											type="button"
											onclick={() => (reading = item.id)}>{item.subject || '(no subject)'}</button
										>
										{#if item.flagged}<b class="text-xs" title="flagged">flag</b>{/if}
										{#if item.kept}<b class="text-xs" title="kept">kept</b>{/if}
										{#if item.pauseId}<b class="text-xs" title="under a pause">paused</b>{/if}
										{#each item.tags as tag (tag.id)}
											<TagMark {tag} />{/each}
									</td>
									<td class="truncate" title={item.folder}>{item.folder}</td>
									<td class="number">{showBytes(item.bytes)}</td>
								</tr>
							{/each}
						</tbody>
					</table>
					{#if loading}<p role="status" class="p-2">Opening …</p>{/if}
					{#if items.length < total && lot && !loading}
						<button class="quiet mt-2" type="button" onclick={() => lot && more(lot, items.length)}
							>Show {showCount(Math.min(PART, total - items.length))} more of {showCount(total)}</button
						>
					{/if}
				</div>
				<DropRail messages={draggedMessages} {folders} {tags} {onLetGo} />
			</Dialog.Content>
		</Dialog.Positioner>
	</Portal>
</Dialog>
<MessageDrawer bind:id={reading} />
