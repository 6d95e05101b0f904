<script lang="ts">
	import { untrack } from 'svelte';
	import { enhance } from '$lib/enhance.ts';
	import MessageSheet from '$lib/components/sheet/MessageSheet.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import type { MessagesPage } from '$lib/server/web/messages-page.ts';
	import { daysBetween } from '../../../../../core/calendar.ts';
	import { showBytes, showCount, showMessages } from '../../../../../core/weigh/units.ts';

	let { data, form } = $props();

	const { mailbox } = $derived(data.bin);
	/* An answer of the sheet's own row of decisions is shown there. */
	const answer = $derived(form as { message?: string; set?: boolean } | null);
	// a refused setting leaves it open
	let isSetting = $state(untrack(() => answer?.set === true));
	const daysLeft = (binnedOn: string | null) =>
		Math.max(0, mailbox.binDays - daysBetween(binnedOn ?? data.bin.today, data.bin.today));
	const days = (left: number) => (left === 0 ? 'due now' : left === 1 ? '1 day' : `${showCount(left)} days`);
</script>

{#snippet left(hit: MessagesPage['hits'][number])}
	{@const number = daysLeft(hit.binnedOn)}
	<span class:text-wax={number === 0}>{days(number)}</span>
{/snippet}

<svelte:head><title>Bin of {mailbox.name} – Kovrel</title></svelte:head>

<h1>Bin</h1>
<p class="mt-1 mb-3 max-w-3xl">
	Deleted mail stays here for {showCount(mailbox.binDays)} days and can be restored until then. It still counts against the
	quota: its room is free once it is destroyed.
</p>
<div class="bg-sheet border-rule-strong mb-4 flex flex-wrap items-center gap-3 border p-3">
	<p class="mr-auto" data-testid="bin-total">
		<b>{showMessages(data.bin.messages)}</b> ({showBytes(data.bin.bytes)}) in the bin; {showCount(
			data.bin.due.messages
		)} have been there for {showCount(mailbox.binDays)} days or more{#if data.bin.dueTomorrow.messages > 0}; {showCount(
				data.bin.dueTomorrow.messages
			)} more tomorrow{/if}.
	</p>
	<form method="post" action="?/empty" use:enhance class="flex gap-2">
		<button class="quiet" name="onlyDue" value="1" disabled={data.bin.due.messages === 0}
			>{data.bin.due.messages === 0
				? 'Nothing is due'
				: `Draft: destroy the ${showMessages(data.bin.due.messages)} due`}</button
		>
		<button class="quiet" disabled={data.bin.messages === 0}>Draft: empty the bin</button>
	</form>
</div>

{#if data.sheet}
	<MessageSheet sheet={data.sheet} column={{ title: 'Days left', key: 'deleted', cell: left }} answer={form}>
		{#snippet empty()}
			{#if data.bin.messages === 0}The bin is empty. Mail deleted by a docket, or imported from a folder of deleted
				mail, lies here first.{:else}No message in the bin matches these filters.{/if}
		{/snippet}
	</MessageSheet>
{:else}<Refused message={data.refused} />{/if}

<details class="mt-6" bind:open={isSetting}>
	<summary class="cursor-pointer font-semibold">Settings of the bin</summary>
	<form
		method="post"
		action="?/settings"
		use:enhance
		class="bg-sheet border-rule-strong mt-2 flex flex-col gap-3 border p-4"
	>
		<label class="flex items-center gap-2"
			>Deleted mail stays for <input
				class="field w-24"
				type="number"
				name="binDays"
				min="1"
				max="3650"
				value={mailbox.binDays}
				required
			/> days</label
		>
		<label class="flex items-center gap-2"
			>Destroying more than <input
				class="field w-24"
				type="number"
				name="confirmAbove"
				min="0"
				value={mailbox.confirmAbove}
				required
			/> messages asks for the mailbox's name</label
		>
		<label class="flex items-start gap-2"
			><input class="mt-1" type="checkbox" name="emptiesBin" value="1" checked={mailbox.emptiesBin} />
			<span
				>Destroy mail every night once its days are over. Today that would be {showMessages(data.bin.due.messages)} ({showBytes(
					data.bin.due.bytes
				)}), tomorrow {showMessages(data.bin.dueTomorrow.messages)} more. The first night only drafts the docket: you carry
				it out, and the next ones run by themselves.</span
			></label
		>
		<div class="flex items-center gap-3">
			<button class="act">Save</button>
			{#if answer?.set}<p role="status">Saved.</p>{/if}
		</div>
	</form>
</details>
