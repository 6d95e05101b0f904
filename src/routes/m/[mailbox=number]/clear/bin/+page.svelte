<script lang="ts">
	import type { SubmitFunction } from '@sveltejs/kit';
	import { enhance } from '$app/forms';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import MessageTable from '$lib/components/sheet/MessageTable.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showBytes, showCount, showMessages } from '../../../../../core/weigh/units.ts';

	let { data, form } = $props();

	let selected = $state<number[]>([]);
	let open = $state<number>();

	const { mailbox } = $derived(data.bin);
	const pages = $derived(Math.ceil(data.bin.messages / data.pageSize));
	const answer = $derived(form as { message?: string; restored?: number; set?: boolean } | null);
	const days = (left: number) => (left === 0 ? 'due now' : left === 1 ? '1 day' : `${showCount(left)} days`);

	/* Restored messages are deselected and closed: a second click would restore nothing. */
	const submitRestore: SubmitFunction =
		({ formData }) =>
		async ({ result, update }) => {
			if (result.type !== 'failure') {
				const restored = formData.getAll('id').map(Number);
				selected = selected.filter((id) => !restored.includes(id));
				open = undefined;
			}
			await update();
		};

	function toggle(id: number) {
		selected = selected.includes(id) ? selected.filter((other) => other !== id) : [...selected, id];
	}
</script>

{#snippet daysLeft(item: (typeof data.bin.items)[number])}
	<span class:text-wax={item.daysLeft === 0}>{days(item.daysLeft)}</span>
{/snippet}

<svelte:head><title>Bin of {mailbox.name} – Kovrel</title></svelte:head>

<h1>Bin</h1>
<p class="mt-1 mb-3 max-w-3xl">
	Deleted mail stays here for {showCount(mailbox.binDays)} days and can be restored until then. It still counts against the
	quota: its room is free once it is destroyed.
</p>
<Refused message={answer?.message} />
{#if answer?.restored !== undefined}
	<p role="status" class="mb-2">
		{#if answer.restored === 0}Nothing was restored: it is in its folder already.{:else}<b
				>{showMessages(answer.restored)}</b
			>
			restored to where {answer.restored === 1 ? 'it' : 'they'} came from.{/if}
	</p>
{/if}

<div class="bg-sheet border-rule-strong mb-4 flex flex-wrap items-center gap-3 border p-3">
	<p class="mr-auto" data-testid="bin-total">
		<b>{showMessages(data.bin.messages)}</b> ({showBytes(data.bin.bytes)}) in the bin; {showCount(
			data.bin.due.messages
		)} have had their days{#if data.bin.dueTomorrow.messages > 0}, {showCount(data.bin.dueTomorrow.messages)} more will have
			tomorrow{/if}.
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

{#if data.bin.messages === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		The bin is empty. What is deleted by a docket, or comes in from a folder of deleted mail, lies here first.
	</p>
{:else}
	<form method="post" action="?/restore" use:enhance={submitRestore}>
		<div class="flex items-center justify-between gap-3 pb-2">
			<a class="lead text-sm" href="/m/{data.mailboxId}/archive?where=binned">Search the bin</a>
			<span class="text-ink-soft text-sm">↑ ↓ walk, space selects, Enter opens</span>
			<button class="act" disabled={selected.length === 0}
				>{selected.length === 0 ? 'Restore: select messages first' : `Restore ${showMessages(selected.length)}`}</button
			>
		</div>
		{#each selected as id (id)}<input type="hidden" name="id" value={id} />{/each}
		<MessageTable
			items={data.bin.items}
			onOpen={(id) => (open = id)}
			selecting={{ isIn: ({ id }) => selected.includes(id), toggle: ({ id }) => toggle(id) }}
			before={{ title: 'Days left', cell: daysLeft }}
			date={{ title: 'Deleted', of: ({ binnedOn }) => binnedOn }}
			place={{ title: 'Goes back to', of: ({ origin }) => origin ?? 'Inbox' }}
		/>
	</form>
	{#if pages > 1}
		<nav class="mt-3 flex items-center gap-3" aria-label="Pages">
			{#if data.page > 1}<a class="quiet" href="?page={data.page - 1}">Page before</a>{/if}
			<span class="text-sm">page {showCount(data.page)} of {showCount(pages)}</span>
			{#if data.page < pages}<a class="quiet" href="?page={data.page + 1}">Next page</a>{/if}
		</nav>
	{/if}
{/if}

<details class="mt-6" open={answer?.set === true}>
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
				>Destroy what has had its days every night. Today that would be {showMessages(data.bin.due.messages)} ({showBytes(
					data.bin.due.bytes
				)}), tomorrow {showMessages(data.bin.dueTomorrow.messages)} more. The first night only drafts the docket: you carry
				it out, and the next ones run by themselves.</span
			></label
		>
		<div class="flex items-center gap-3">
			<button class="act">Use this from now on</button>
			{#if answer?.set}<p role="status">It is set.</p>{/if}
		</div>
	</form>
</details>

<MessageDrawer bind:id={open}>
	{#snippet actions(message)}
		<form method="post" action="?/restore" use:enhance={submitRestore}>
			<input type="hidden" name="id" value={message.id} />
			<button class="act text-sm">Restore to {message.origin ?? 'the inbox'}</button>
		</form>
	{/snippet}
</MessageDrawer>
