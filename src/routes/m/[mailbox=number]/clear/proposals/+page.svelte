<script lang="ts">
	import { ruleOf } from '../../../../../core/docket/decisions.ts';
	import { SvelteSet } from 'svelte/reactivity';
	import { enhance } from '$app/forms';
	import { invalidateAll } from '$app/navigation';
	import JobProgress from '$lib/components/frames/JobProgress.svelte';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import MessageTable from '$lib/components/sheet/MessageTable.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import ShareBar from '$lib/components/charts/ShareBar.svelte';
	import SideBySide from '$lib/components/message/SideBySide.svelte';
	import { jobs } from '$lib/jobs.svelte.ts';
	import { keepFields } from '$lib/keep-fields.ts';
	import { showMoment } from '$lib/moments.ts';
	import { showBytes, showCount, showMessages } from '../../../../../core/weigh/units.ts';

	let { data, form } = $props();

	const { proposals, lookedAt, emptyFolders } = $derived(data.proposals);
	const most = $derived(Math.max(1, ...proposals.map(({ bytes }) => bytes)));
	const opened = $derived(proposals.find(({ kind }) => kind === data.kind));
	const pages = $derived(Math.ceil((data.opened?.total ?? 0) / data.pageSize));
	const job = $derived(jobs.running.find(({ useCase }) => useCase === 'findProposals'));
	const answer = $derived(form as { message?: string; removed?: string[] } | null);

	/* Nothing is preselected. */
	const selected = new SvelteSet<number>();
	let everything = $state(false);
	const count = $derived(everything ? (data.opened?.total ?? 0) : selected.size);
	/* The decisions on a proposal: its own, other ways of clearing it, or keeping it for good. */
	const OFFERED = (['delete', 'archive', 'keep'] as const).map(
		(decision) => [decision, ruleOf(decision).buttons[0]?.label] as const
	);
	const GROUPS = [
		{
			standing: 'safe',
			title: 'Safe to clear',
			says: 'Another message has all of it, or its sender says that it is over.'
		},
		{ standing: 'look', title: 'Worth a look', says: 'It looks unneeded, and only a person can tell.' }
	] as const;
	function hrefOf(changed: { kind?: string; page?: number }): string {
		const parts = Object.entries({ ...(data.folder ? { folder: data.folder } : {}), ...changed });
		return `?${parts.map(([name, value]) => `${name}=${encodeURIComponent(value)}`).join('&')}`;
	}
	let reading = $state<number>();
	let compared = $state<{ earlier: number; later: number }>();

	function clearSelection() {
		selected.clear();
		everything = false;
	}
	$effect(() => {
		void data.kind;
		clearSelection();
	});
	// new proposals are shown when they are computed
	let wasRunning = false;
	$effect(() => {
		if (wasRunning && !job) void invalidateAll();
		wasRunning = job !== undefined;
	});
</script>

<svelte:head><title>Proposals – Kovrel</title></svelte:head>

<h1>Proposals</h1>
<p class="mt-1 mb-3 max-w-3xl">
	Kovrel looks for mail that repeats other mail, or that looks unneeded. Each proposal opens to its messages, with the
	reason for each. Mail that is flagged, kept, paused, under a hold or a series, a record, never archived, or tagged as
	named below is left out.
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
			name="folder"
			value={data.folder}
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
						<tr aria-current={kind === data.kind ? 'true' : undefined}>
							<td class="font-semibold"><a class="lead" href={hrefOf({ kind })} data-sveltekit-noscroll>{name}</a></td>
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

{#if data.opened && opened}
	<section class="mt-5" aria-labelledby="opened">
		<form
			method="post"
			action="?/decide"
			use:enhance={() =>
				async ({ result, update }) => {
					// messages on the docket are decided on
					if (result.type !== 'failure') clearSelection();
					await update();
				}}
		>
			<input type="hidden" name="kind" value={opened.kind} />
			<input type="hidden" name="folder" value={data.folder} />
			{#if everything}<input type="hidden" name="all" value="1" />{:else}
				{#each [...selected] as id (id)}<input type="hidden" name="id" value={id} />{/each}
			{/if}
			<div class="flex flex-wrap items-center gap-2 pb-2">
				<h2 id="opened" class="mr-auto">{opened.name}: {showMessages(opened.messages)}</h2>
				<button class="quiet" type="button" aria-pressed={everything} onclick={() => (everything = !everything)}
					>{everything ? 'Clear selection' : `Select all ${showCount(data.opened.total)}`}</button
				>
				{#each OFFERED as [decision, name] (decision)}
					<button
						class={opened.decision === decision ? 'act' : 'quiet'}
						name="decision"
						value={decision}
						disabled={count === 0}>{name} {count === 0 ? '' : showMessages(count)}</button
					>
				{/each}
			</div>
			<MessageTable
				items={data.opened.items}
				onOpen={(id) => (reading = id)}
				selecting={{
					isIn: ({ id }) => everything || selected.has(id),
					toggle: ({ id }) => (selected.has(id) ? selected.delete(id) : selected.add(id)),
					disabled: everything
				}}
			>
				{#snippet below(item)}
					{item.reason}{#if item.betterId}{@const better = item.betterId}:
						<button class="lead" type="button" onclick={() => (compared = { earlier: item.id, later: better })}
							>compare the two</button
						>{/if}
				{/snippet}
			</MessageTable>
		</form>
		{#if pages > 1}
			<nav class="mt-3 flex items-center gap-3" aria-label="Pages">
				{#if data.page > 1}<a
						class="quiet"
						data-sveltekit-noscroll
						href={hrefOf({ kind: data.kind, page: data.page - 1 })}>Page before</a
					>{/if}
				<span class="text-sm">page {showCount(data.page)} of {showCount(pages)}</span>
				{#if data.page < pages}<a
						class="quiet"
						data-sveltekit-noscroll
						href={hrefOf({ kind: data.kind, page: data.page + 1 })}>Next page</a
					>{/if}
			</nav>
		{/if}
	</section>
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

<MessageDrawer bind:id={reading} />
<SideBySide bind:pair={compared} quotesOnly={data.kind === 'thanks'} />

<style>
	tr[aria-current='true'] {
		background: var(--stamp-soft);
	}
</style>
