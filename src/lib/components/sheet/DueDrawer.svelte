<script lang="ts">
	import { enhance } from '$app/forms';
	import DecisionFields from '$lib/components/docket/DecisionFields.svelte';
	import Drawer from '$lib/components/frames/Drawer.svelte';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import MessageTable from '$lib/components/sheet/MessageTable.svelte';
	import type { DueItem, DueLine } from '$lib/server/retention/index.ts';
	import type { DecisionButton, DecisionOptions } from '../../../core/docket/decision.ts';
	import { type Decision, decisionsOn, ruleOf } from '../../../core/docket/decisions.ts';
	import { showDate, showMonth } from '../../../core/calendar.ts';
	import { ACTION_WORDS } from '../../../core/retention/sentences.ts';
	import { showCount, showMessages } from '../../../core/weigh/units.ts';

	interface Props {
		line: DueLine | undefined;
		today: string;
		onClose: () => void;
		onDecided: (dockets: number[]) => void;
	}
	let { line, today, onClose, onDecided }: Props = $props();

	let items = $state.raw<DueItem[]>([]);
	let total = $state(0);
	let loading = $state(false);
	let wrong = $state<string>();
	let reading = $state<number>();
	let selected = $state<Set<number>>(new Set());
	let all = $state(false);
	let asking = $state<Word>();
	let said = $state<DecisionOptions>();

	/** A decision button. */
	interface Word extends DecisionButton {
		decision: Decision;
	}
	/* Mail due for one disposition is not offered the other; series are set on folders, or on the sheet. */
	const words = $derived(
		decisionsOn('due').flatMap((decision): Word[] => {
			const { buttons, needsEndedPeriod, to } = ruleOf(decision);
			const end = needsEndedPeriod ? 'destroy' : to === 'archived' ? 'archive' : undefined;
			const isOffered = end === undefined || (isDue && [end, 'review'].includes(line?.disposition ?? ''));
			return isOffered
				? buttons.filter(({ asks }) => asks !== 'series').map((button) => ({ ...button, decision }))
				: [];
		})
	);
	function doing({ label, says }: Word): string {
		if (meant === 0) return label;
		return says?.(showMessages(meant)) ?? `${label.replace(' …', '')} ${showMessages(meant)}`;
	}
	const isDue = $derived(line !== undefined && line.date.length > 7 && line.date <= today);
	const selectedItems = $derived(items.filter(({ id }) => selected.has(id)));

	const meant = $derived(all && line ? line.messages : selectedItems.length);

	async function more(of: DueLine, offset: number) {
		loading = true;
		wrong = undefined;
		const asked = new URLSearchParams({
			date: of.date,
			action: of.disposition,
			mailboxId: String(of.mailboxId),
			retentionId: String(of.retentionId),
			folderId: String(of.folderId),
			offset: String(offset)
		});
		try {
			const answer = await fetch(`/retain/items?${asked.toString()}`);
			const body = (await answer.json()) as { items: DueItem[]; total: number; message?: string };
			if (!answer.ok) throw new Error(body.message);
			if (of !== line) return;
			items = offset === 0 ? body.items : [...items, ...body.items];
			total = body.total;
		} catch (error) {
			wrong = error instanceof Error && error.message ? error.message : 'The server does not answer.';
		} finally {
			loading = false;
		}
	}

	$effect(() => {
		const of = line;
		items = [];
		total = 0;
		selected = new Set();
		asking = undefined;
		all = false;
		if (of) void more(of, 0);
	});

	const toggle = ({ id }: { id: number }) => {
		selected = new Set(selected.has(id) ? [...selected].filter((other) => other !== id) : [...selected, id]);
	};

	const wishOf = (decision: string, options: object = {}) =>
		JSON.stringify({
			decision,
			options,
			action: line?.disposition ?? 'review',
			...(all && line
				? {
						all: {
							mailboxId: line.mailboxId,
							date: line.date,
							retentionId: line.retentionId,
							folderId: line.folderId
						}
					}
				: { items: [{ mailboxId: line?.mailboxId, ids: selectedItems.map(({ id }) => id) }] })
		});
</script>

{#snippet submit(decision: Decision, label: string, options: object = {}, strong = false, ready = true)}
	<form
		method="post"
		action="/retain?/decide"
		use:enhance={() =>
			async ({ result, update }) => {
				if (result.type === 'failure') wrong = String(result.data?.message ?? 'It could not be done.');
				else if (result.type === 'success') {
					onDecided((result.data?.drafted as number[] | undefined) ?? []);
					await update({ reset: false });
				}
			}}
	>
		<input type="hidden" name="wish" value={wishOf(decision, options)} />
		<button class={strong ? 'act text-sm' : 'quiet text-sm'} disabled={(selectedItems.length === 0 && !all) || !ready}
			>{label}</button
		>
	</form>
{/snippet}

<Drawer
	open={line !== undefined}
	{onClose}
	width="62rem"
	title={line
		? `${isDue ? 'Due now' : line.date.length > 7 ? `Due on ${showDate(line.date)}` : `Due in ${showMonth(line.date)}`}: ${ACTION_WORDS[line.disposition]} ${showMessages(line.messages)} of ${line.folder}`
		: ''}
>
	{#if line}
		<p class="text-sm">
			{line.series ? `Under series ${line.series}.` : `Its mail is ${line.terms}.`} Nothing happens from here but what you
			put on a docket.
			{#if meant === 0}Select the messages to decide on.{:else}A decision is about the <b>{showMessages(meant)}</b>
				{all ? 'of this row' : 'with a tick'}.{/if}
			<label class="ml-1 inline-flex items-center gap-1"
				><input type="checkbox" bind:checked={all} /> all {showCount(line.messages)}{total > items.length
					? ', not only those shown'
					: ''}</label
			>
		</p>
		{#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
		<div class="decide border-b! flex flex-wrap items-end gap-2" role="group" aria-label="Decide on what is due">
			{#if asking?.asks}
				<DecisionFields asks={asking.asks} bind:options={said} />
				{@render submit(asking.decision, doing(asking), said, true, said !== undefined)}
				<button class="quiet text-sm" type="button" onclick={() => (asking = undefined)}>Not now</button>
			{:else}
				{#each words as word (word.label)}
					{#if word.asks}
						<button class="quiet text-sm" type="button" onclick={() => (asking = word)}>{word.label}</button>
					{:else}
						{@render submit(word.decision, doing(word))}
					{/if}
				{/each}
				<a class="quiet text-sm" href="/retain/holds">Hold …</a>
			{/if}
		</div>
		<div class="min-h-0 flex-1 overflow-auto">
			{#if items.length > 0}
				<MessageTable
					{items}
					onOpen={(id) => (reading = id)}
					selecting={{ isIn: ({ id }) => all || selected.has(id), toggle, disabled: all }}
					place={{ title: 'Due', of: ({ dueOn }) => showDate(dueOn) }}
				></MessageTable>
			{/if}
			{#if loading}<p role="status" class="p-1">Listing …</p>{/if}
			{#if items.length < total && !loading}
				<button class="quiet mt-2" type="button" onclick={() => line && more(line, items.length)}
					>Show more of {showCount(total)}</button
				>
			{/if}
		</div>
	{/if}
</Drawer>
<MessageDrawer bind:id={reading} />
