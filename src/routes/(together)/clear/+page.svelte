<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import { page } from '$app/state';
	import QuotaBar from '$lib/components/charts/QuotaBar.svelte';
	import CutoffFields from '$lib/components/forms/CutoffFields.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showBytes, showCount } from '../../../core/weigh/units.ts';

	let { data, form } = $props();

	// the same date, loaded anew, changes nothing that was typed since
	const given = $derived(data.before);
	let before = $derived(given);
	let isDrafting = $state(false);
	const answer = $derived(form as { message?: string; drafted?: number; started?: number } | null);
	const within = $derived(page.url.search.replace('?', '&'));
	const many = $derived(data.lines.length);
	const archiving = $derived(data.lines.filter(({ archives }) => archives).length);
</script>

<svelte:head><title>Clear several mailboxes – Kovrel</title></svelte:head>

<h1>Archive old mail of {many === 1 ? '1 mailbox' : `${showCount(many)} mailboxes`}</h1>
<p class="mt-1 max-w-2xl">
	Drafts a docket for each mailbox that has mail received before the cutoff date. Archived mail stays searchable, can be
	restored, and no longer counts against the quota.
</p>
<form
	method="post"
	action="?/draft{within}"
	use:enhance={() => {
		isDrafting = true;
		return async ({ update }) => {
			await update({ reset: false });
			isDrafting = false;
		};
	}}
	class="bg-sheet border-rule-strong my-3 flex flex-wrap items-end gap-4 border p-4"
>
	<CutoffFields bind:before presets={data.presets} />
	<label class="flex items-center gap-1.5 text-sm"
		><input type="checkbox" name="leavesFlagged" value="1" /> leave flagged mail</label
	>
	<button class="act" disabled={isDrafting || archiving === 0}
		>{isDrafting
			? 'Counting …'
			: archiving === 0
				? 'These mailboxes archive nothing'
				: 'Count it, and draft dockets'}</button
	>
	<span class="text-ink-soft text-sm">Nothing happens yet.</span>
</form>
<Refused message={answer?.message} />
{#if answer?.drafted}<p role="status" class="mb-2">
		{answer.drafted === 1 ? '1 docket was' : `${showCount(answer.drafted)} dockets were`} drafted.
	</p>{/if}
{#if answer?.started}<p role="status" class="mb-2">
		{answer.started === 1 ? '1 docket is' : `${showCount(answer.started)} dockets are`} being carried out.
	</p>{/if}

<p class="mb-3">
	<a class="lead" href="/lots{page.url.search}">Decide on lots over these mailboxes</a>: organisations, lists, years,
	sizes.
</p>

<h2 class="mb-1.5">Each mailbox against its quota and its aim</h2>
<table class="sheet">
	<thead>
		<tr
			><th>Mailbox</th><th class="number">Size</th><th class="w-36">Against the quota</th><th class="number"
				>Over the quota</th
			><th class="number">In the inbox</th><th class="number">Aim</th><th class="number">In the bin</th></tr
		>
	</thead>
	<tbody>
		{#each data.lines as line (line.id)}
			<tr>
				<td
					><a class="lead font-semibold" href="/m/{line.id}/clear">{line.name}</a>{#if !line.archives}<span
							class="text-ink-soft block text-xs">archives nothing</span
						>{/if}</td
				>
				<td class="number">{showBytes(line.bytes)}</td>
				<td><QuotaBar bytes={line.bytes} quota={line.quotaBytes} /></td>
				<td class="number" class:text-wax={line.over > 0}>{line.over > 0 ? showBytes(line.over) : 'no'}</td>
				<td class="number">{showCount(line.inbox.messages)}</td>
				<td class="number">{showCount(line.inbox.aim)}</td>
				<td class="number"
					>{#if line.binned.messages > 0}<a class="lead" href="/m/{line.id}/clear/bin"
							>{showCount(line.binned.messages)}</a
						>{:else}0{/if}</td
				>
			</tr>
		{/each}
	</tbody>
</table>
