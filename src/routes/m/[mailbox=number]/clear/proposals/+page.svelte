<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import { invalidateAll } from '$app/navigation';
	import JobProgress from '$lib/components/frames/JobProgress.svelte';
	import MessageSheet from '$lib/components/sheet/MessageSheet.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import ShareBar from '$lib/components/charts/ShareBar.svelte';
	import SideBySide from '$lib/components/message/SideBySide.svelte';
	import { jobs } from '$lib/jobs.svelte.ts';
	import { keepFields } from '$lib/keep-fields.ts';
	import { showMoment } from '$lib/moments.ts';
	import { PROPOSALS } from '../../../../../core/likeness/proposals.ts';
	import { showBytes, showCount } from '../../../../../core/weigh/units.ts';

	let { data, form } = $props();

	const { proposals, lookedAt, emptyFolders } = $derived(data.proposals);
	const most = $derived(Math.max(1, ...proposals.map(({ bytes }) => bytes)));
	const job = $derived(jobs.running.find(({ useCase }) => useCase === 'findProposals'));
	const answer = $derived(form as { message?: string; removed?: string[] } | null);

	const GROUPS = [
		{
			standing: 'safe',
			title: 'Safe to clear',
			says: 'Another message has all of it, or its sender says that it is over.'
		},
		{ standing: 'look', title: 'Worth a look', says: 'It looks unneeded, and only a person can tell.' }
	] as const;
	const hrefOf = (proposal: string) =>
		`?${new URLSearchParams({ ...(data.below ? { below: data.below } : {}), proposal }).toString()}`;
	const reasons = $derived(new Map(data.reasons.map((one) => [one.itemId, one])));
	let compared = $state<{ earlier: number; later: number }>();

	// new proposals are shown when they are computed
	let wasRunning = false;
	$effect(() => {
		if (wasRunning && !job) void invalidateAll();
		wasRunning = job !== undefined;
	});
</script>

<svelte:head><title>Proposals – Kovrel</title></svelte:head>

{#snippet why(hit: { id: number })}
	{@const reason = reasons.get(hit.id)}
	{#if reason}{reason.reason}{#if reason.betterId}{@const better = reason.betterId}:
			<button class="lead" type="button" onclick={() => (compared = { earlier: hit.id, later: better })}
				>compare the two</button
			>{/if}{/if}
{/snippet}

{#if data.kind}
	{@const { name, what } = PROPOSALS[data.kind]}
	<nav class="text-sm" aria-label="Where this is">
		<a class="lead" href={data.below ? `?${new URLSearchParams({ below: data.below }).toString()}` : '?'}
			>All proposals</a
		>
	</nav>
	<h1>{name}</h1>
	<p class="text-ink-soft mt-1 text-sm">
		{what.replace(/^./, (letter) => letter.toUpperCase())}{data.below ? `, in ${data.below} and below` : ''}. Nothing is
		selected beforehand.
	</p>
	{#if data.sheet}
		<MessageSheet sheet={data.sheet} note={why} answer={form}>
			{#snippet empty()}No message of this proposal is left.{/snippet}
		</MessageSheet>
	{:else}<Refused message={data.refused} />{/if}
{:else}
	<h1>Proposals</h1>
	<p class="mt-1 mb-3 max-w-3xl">
		Kovrel looks for mail that repeats other mail, or that looks unneeded. Each proposal opens to its messages, with the
		reason for each. Mail that is flagged, kept, paused, under a hold or a series, a record, never archived, or tagged
		as named below is left out.
	</p>
	<Refused message={answer?.message} />
	<div class="mb-3 flex items-center gap-3">
		<form method="post" action="?/look" use:enhance>
			<button class={lookedAt ? 'quiet' : 'act'} disabled={job !== undefined}
				>{lookedAt ? 'Look again' : 'Look through the mailbox'}</button
			>
		</form>
		<p class="text-ink-soft text-sm">
			{lookedAt ? `Looked through on ${showMoment(lookedAt)}.` : 'Nobody has looked through this mailbox yet.'}
		</p>
	</div>
	<form method="get" class="mb-3 flex items-center gap-2 text-sm">
		<label class="flex items-center gap-2"
			>In <select
				class="field"
				name="below"
				value={data.below}
				onchange={(event) => event.currentTarget.form?.requestSubmit()}
			>
				<option value="">all folders</option>
				{#each data.folders as { id, path } (id)}<option value={path}>{path}</option>{/each}
			</select></label
		>
	</form>
	<details class="mb-3 text-sm">
		<summary class="cursor-pointer"
			>Tags whose mail is never proposed: {data.tags
				.filter(({ stays }) => stays)
				.map(({ name }) => name)
				.join(', ') || 'none'}</summary
		>
		<form method="post" action="?/tags" use:enhance={keepFields} class="mt-1 flex flex-wrap items-center gap-3">
			{#each data.tags as { name, stays } (name)}
				<label class="flex items-center gap-1.5"
					><input type="checkbox" name="tag" value={name} checked={stays} />{name}</label
				>
			{:else}<span class="text-ink-soft">There are no tags yet.</span>
			{/each}
			<button class="quiet" disabled={data.tags.length === 0}>Save</button>
		</form>
	</details>
	{#if job}<div class="mb-3 max-w-md"><JobProgress {job} /></div>{/if}

	{#if proposals.length > 0}
		{#each GROUPS as { standing, title, says } (standing)}
			{@const group = proposals.filter((one) => one.standing === standing)}
			{#if group.length > 0}
				<h2 class="mt-4">{title}</h2>
				<p class="text-ink-soft mb-1.5 text-sm">{says}</p>
				<table class="sheet">
					<thead
						><tr
							><th>Proposal</th><th>What it is</th><th class="number">Messages</th><th class="number">Would free</th><th
								class="w-28">Share</th
							></tr
						></thead
					>
					<tbody>
						{#each group as { kind, name, what, messages, bytes } (kind)}
							<tr>
								<td class="font-semibold"><a class="lead" href={hrefOf(kind)} data-sveltekit-noscroll>{name}</a></td>
								<td class="text-sm">{what}</td>
								<td class="number">{showCount(messages)}</td>
								<td class="number">{showBytes(bytes)}</td>
								<td><ShareBar {bytes} whole={most} /></td>
							</tr>
						{/each}
					</tbody>
				</table>
			{/if}
		{/each}
	{:else if lookedAt}
		<p class="bg-sheet border-rule-strong border p-5">
			Nothing was found: no mail here repeats another, and none is left over.
		</p>
	{/if}

	{#if emptyFolders.length > 0}
		<section class="mt-5" aria-labelledby="empty-folders">
			<h2 id="empty-folders">
				{showCount(emptyFolders.length)} empty {emptyFolders.length === 1 ? 'folder' : 'folders'}
			</h2>
			<form method="post" action="?/removeFolders" use:enhance class="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1">
				{#each emptyFolders as { id, path } (id)}
					<label class="flex items-center gap-1.5"><input type="checkbox" name="folder" value={path} /> {path}</label>
				{/each}
				<button class="quiet">Remove the folders marked</button>
			</form>
		</section>
	{/if}
{/if}

<SideBySide bind:pair={compared} quotesOnly={data.kind === 'thanks'} />
