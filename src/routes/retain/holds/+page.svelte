<script lang="ts">
	import Explain from '$lib/components/frames/Explain.svelte';
	import DateField from '$lib/components/forms/DateField.svelte';
	import { enhance } from '$lib/enhance.ts';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showDate } from '../../../core/calendar.ts';
	import { showBytes, showMessages } from '../../../core/weigh/units.ts';

	let { data, form } = $props();

	interface Covered {
		sentence: string;
		messages: number;
		bytes: number;
	}
	const answer = $derived(
		form as {
			message?: string;
			covers?: Covered;
			placed?: Covered & { name: string };
			released?: string;
			messages?: number;
			due?: number;
		} | null
	);
	const standing = $derived(data.holds.filter(({ releasedOn }) => releasedOn === null));
	const released = $derived(data.holds.filter(({ releasedOn }) => releasedOn !== null));
	let mailbox = $state('');
	let releasing = $state<number>();
	const first = $derived(data.mailboxes[0]);

	/* The mail under it now, in any state. */
	function itemsOf({ name, scope }: (typeof data.holds)[number], anyMailbox: number): string {
		const asked = `q=${encodeURIComponent(`hold:"${name}"`)}&where=everywhere`;
		return `/m/${scope.mailboxId ?? anyMailbox}/archive?${asked}${scope.mailboxId === undefined ? '&all=1' : ''}`;
	}
</script>

<svelte:head><title>Holds – Kovrel</title></svelte:head>

<div class="flex items-center gap-2">
	<h1>Holds</h1>
	<Explain word="hold" />
</div>
<p class="mt-1 mb-3 max-w-3xl">
	A hold outranks everything: no person, docket, standing decision or scheduled run can delete or destroy the mail under
	it, until the hold is released with a reason. It covers new mail as it comes in, and mail that is moved out of it.
</p>
<Refused message={answer?.message} />
{#if answer?.placed}
	<p role="status" class="mb-2">
		The hold <b>{answer.placed.name}</b> stands: {showMessages(answer.placed.messages)} ({showBytes(
			answer.placed.bytes
		)}) are under it.
	</p>
{/if}
{#if answer?.released !== undefined}
	<p role="status" class="mb-2">
		The hold <b>{answer.released}</b> is released: {showMessages(answer.messages ?? 0)} are no longer under it{#if answer.due},
			and {showMessages(answer.due)} of them
			<a class="lead" href="/retain">are due to be destroyed now</a>{/if}.
	</p>
{/if}

{#if standing.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		Nothing is held. A hold is placed below when an investigation, a claim or a court case needs mail to stay.
	</p>
{:else}
	<table class="sheet">
		<thead
			><tr
				><th>Hold</th><th>What it covers</th><th class="number">Messages</th><th class="number">Size</th><th
					>Since, asked for by</th
				><th><span class="sr-only">Release</span></th></tr
			></thead
		>
		<tbody>
			{#each standing as hold (hold.id)}
				<tr>
					<td class="font-semibold"
						>{hold.name}<span class="text-ink-soft block text-xs font-normal">{hold.because}</span></td
					>
					<td class="text-sm">{hold.sentence}</td>
					<td class="number"
						>{#if first}<a class="lead" href={itemsOf(hold, first.id)}>{showMessages(hold.messages)}</a>{/if}</td
					>
					<td class="number">{showBytes(hold.bytes)}</td>
					<td class="text-sm"
						>{showDate(hold.placedOn)}, {hold.from}<span class="text-ink-soft block text-xs"
							>placed by {hold.placedBy}</span
						></td
					>
					<td class="number">
						{#if releasing === hold.id}
							<form
								method="post"
								action="?/release"
								use:enhance={() =>
									async ({ update, result }) => {
										if (result.type === 'success') releasing = undefined;
										await update();
									}}
								class="flex items-end justify-end gap-2"
							>
								<input type="hidden" name="name" value={hold.name} />
								<label class="flex flex-col text-left text-xs"
									>Why it is released
									<!-- svelte-ignore a11y_autofocus -->
									<input class="field w-48" name="because" required maxlength="1000" autofocus /></label
								>
								<button class="act">Release</button>
								<button class="quiet" type="button" onclick={() => (releasing = undefined)}>Cancel</button>
							</form>
						{:else}
							<button class="lead" type="button" aria-label="Release {hold.name}" onclick={() => (releasing = hold.id)}
								>release</button
							>
						{/if}
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
{/if}

<h2 class="mt-6 mb-1.5">Place a hold</h2>
<form
	method="post"
	action="?/place"
	use:enhance={() =>
		({ update, result }) =>
			update({ reset: result.type === 'success' && 'placed' in (result.data ?? {}) })}
	class="bg-sheet border-rule-strong grid gap-3 border md:grid-cols-3 p-4 text-sm"
>
	<label class="flex flex-col gap-1"
		><span class="font-semibold">Name</span>
		<input class="field" name="name" maxlength="200" placeholder="Slipway claim" /></label
	>
	<label class="flex flex-col gap-1"
		><span class="font-semibold">Why</span> <input class="field" name="because" maxlength="1000" /></label
	>
	<label class="flex flex-col gap-1"
		><span class="font-semibold">Requested by</span> <input class="field" name="from" maxlength="200" /></label
	>
	<p class="md:col-span-3 mt-1 font-semibold">It covers mail that meets all of these; empty fields are ignored.</p>
	<label class="flex flex-col gap-1"
		><span>Mailbox</span>
		<select class="field" name="mailbox" bind:value={mailbox}>
			<option value="">all mailboxes</option>
			{#each data.mailboxes as { id, name } (id)}<option>{name}</option>{/each}
		</select></label
	>
	<label class="flex flex-col gap-1"
		><span>Folder, with those below it</span>
		<input class="field" name="folder" maxlength="2000" disabled={mailbox === ''} /></label
	>
	<label class="flex flex-col gap-1"
		><span>Written by or to: an address, or a domain</span>
		<input class="field" name="correspondent" maxlength="300" /></label
	>
	<label class="flex flex-col gap-1"
		><span>Tagged</span> <input class="field" name="tag" maxlength="200" list="hold-tags" /></label
	>
	<datalist id="hold-tags"
		>{#each data.tags as name (name)}<option value={name}></option>{/each}</datalist
	>
	<label class="flex flex-col gap-1"
		><span>Received from this day on</span> <DateField name="since" about="past" /></label
	>
	<label class="flex flex-col gap-1"><span>Received before</span> <DateField name="before" about="past" /></label>
	<label class="md:col-span-3 flex flex-col gap-1"
		><span>Found by a search</span>
		<input class="field" name="query" maxlength="1000" placeholder="words, from:, subject: …" /></label
	>
	<div class="md:col-span-3 flex items-center gap-3">
		<button class="quiet" formaction="?/look">Preview</button>
		<button class="act">Place the hold</button>
		{#if answer?.covers}
			<p role="status" data-testid="covers">
				{answer.covers.sentence} That is <b>{showMessages(answer.covers.messages)}</b> ({showBytes(
					answer.covers.bytes
				)}) today.
			</p>
		{/if}
	</div>
</form>

{#if released.length > 0}
	<details class="mt-5">
		<summary class="cursor-pointer font-semibold">Released</summary>
		<table class="sheet mt-1">
			<thead><tr><th>Hold</th><th>What it covered</th><th>From and to</th><th>Released by, because</th></tr></thead>
			<tbody>
				{#each released as hold (hold.id)}
					<tr>
						<td class="name font-semibold">{hold.name}</td>
						<td class="text-sm">{hold.sentence}</td>
						<td class="text-sm whitespace-nowrap"
							>{showDate(hold.placedOn)} to {showDate(hold.releasedOn ?? hold.placedOn)}</td
						>
						<td class="text-sm">{hold.releasedBy}: {hold.releasedBecause}</td>
					</tr>
				{/each}
			</tbody>
		</table>
	</details>
{/if}
