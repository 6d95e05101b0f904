<script lang="ts">
	import CutoffFields from '$lib/components/forms/CutoffFields.svelte';
	import { MONTH_NAMES } from '../../../../core/calendar.ts';
	import { enhance } from '$lib/enhance.ts';
	import FreedSoFar from '$lib/components/charts/FreedSoFar.svelte';
	import FinishLine from '$lib/components/frames/FinishLine.svelte';
	import DocketFolders from '$lib/components/docket/DocketFolders.svelte';
	import { showMoment } from '$lib/moments.ts';
	import LayoutFields from '$lib/components/forms/LayoutFields.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showMessages } from '../../../../core/weigh/units.ts';
	import { layoutWords } from '../../../../core/archive/layout.ts';

	let { data, form } = $props();

	// a row of Weigh links here with a folder or a date; the same ones, loaded anew, change nothing that was selected since
	const linkedBefore = $derived(data.before);
	const linkedFolder = $derived(data.folder);
	const mailboxId = $derived(data.mailbox.id);
	let before = $derived(linkedBefore);
	// another mailbox has other folders
	let folder = $derived.by(() => {
		void mailboxId;
		return linkedFolder;
	});
	let isDrafting = $state(false);

	const answer = $derived(form as { message?: string; at?: string; archivingSet?: string } | null);
	let isSetting = $derived(answer?.at === 'archiving' || answer?.archivingSet !== undefined);
	const refused = (at: string) => (answer?.at === at ? answer.message : undefined);
</script>

<svelte:head><title>Clear {data.mailbox.name} – Kovrel</title></svelte:head>

<FinishLine overview={data.overview} refused={refused('aim')} />

<h1>Archive old mail</h1>
<p class="mt-1 max-w-2xl">
	Archives mail received before the cutoff date. It stays searchable, can be restored, and no longer counts against the
	quota.
	{#if data.mailbox.ahead.messages > 0}<span class="block" data-testid="ahead"
			>{showMessages(data.mailbox.ahead.messages)}
			{data.mailbox.ahead.messages === 1 ? 'is' : 'are'} still on the mail server: no docket reaches
			{data.mailbox.ahead.messages === 1 ? 'it' : 'them'} before Kovrel has fetched
			{data.mailbox.ahead.messages === 1 ? 'it' : 'them'}.</span
		>{/if}
</p>

{#if data.mailbox.archives}
	<form
		method="post"
		action="?/draft"
		use:enhance={() => {
			isDrafting = true;
			return async ({ update }) => {
				await update({ reset: false });
				isDrafting = false;
			};
		}}
		class="bg-sheet border-rule-strong my-4 flex flex-col gap-3 border p-4"
	>
		<CutoffFields bind:before presets={data.presets} />
		<div class="flex flex-wrap items-end gap-4">
			<label class="flex flex-col gap-1">
				<span class="text-sm font-semibold">From</span>
				<select class="field" name="folder" bind:value={folder}>
					<option value="">the whole mailbox</option>
					{#each data.folders as folder (folder.id)}<option value={folder.path}
							>{'\u2003'.repeat(folder.depth)}{folder.name}{folder.messagesBelow > folder.messages
								? ' and its subfolders'
								: ''}</option
						>{/each}
				</select>
			</label>
		</div>
		<LayoutFields layout={data.mailbox.layout} sample={data.sample} firstMonth={data.financialYear} isFolded />
		<div class="flex flex-wrap items-start gap-4 text-sm">
			<label class="flex items-center gap-1.5"
				><input type="checkbox" name="leavesFlagged" value="1" /> leave flagged mail</label
			>
			{#if folder === ''}
				<details>
					<summary class="cursor-pointer">leave out folders</summary>
					<fieldset class="mt-1 max-h-40 columns-2 overflow-auto">
						<legend class="sr-only">Folders to leave out, with their subfolders</legend>
						{#each data.folders as { id, path, role } (id)}
							{#if role !== 'trash'}
								<label class="flex items-center gap-1.5"
									><input type="checkbox" name="without" value={path} />{path}</label
								>
							{/if}
						{/each}
					</fieldset>
				</details>
			{/if}
		</div>
		<div class="flex flex-wrap items-center gap-4">
			<button class="act" disabled={isDrafting}>{isDrafting ? 'Counting …' : 'Count it, and draft a docket'}</button>
			<span class="text-ink-soft text-sm">Nothing happens yet.</span>
		</div>
	</form>
{:else}
	<p class="bg-sheet border-rule-strong my-4 border p-4">{data.mailbox.name} is set to archive nothing.</p>
{/if}
<Refused message={refused('draft')} />

{#if data.full}
	<h2 class="mb-1.5">Effect of docket {data.full.id}</h2>
	<DocketFolders docket={data.full} />
{:else}
	<p class="text-ink-soft">A drafted docket shows here, folder by folder; its total is on the slip to the right.</p>
{/if}

<FreedSoFar freed={data.overview.freed} />

{#if data.past.length > 0}
	<h2 class="mt-6 mb-1.5">Earlier dockets</h2>
	<table class="sheet">
		<thead><tr><th>Docket</th><th>What</th><th>When and by whom</th><th>State</th></tr></thead>
		<tbody>
			{#each data.past as docket (docket.id)}
				<tr>
					<td><a class="lead" href="/dockets/{docket.id}">{docket.id}</a></td>
					<td>{docket.sentences.join(' ')}</td>
					<td class="whitespace-nowrap">{showMoment(docket.carriedOutAt)}, {docket.carriedOutBy}</td>
					<td class="whitespace-nowrap">{docket.state.replace('-', ' ')}</td>
				</tr>
			{/each}
		</tbody>
	</table>
{/if}

<details class="mt-6" bind:open={isSetting}>
	<summary class="cursor-pointer font-semibold">
		How {data.mailbox.name} is archived: {data.mailbox.archives ? layoutWords(data.mailbox.layout) : 'not at all'}
	</summary>
	<form
		method="post"
		action="?/archiving"
		use:enhance
		class="bg-sheet border-rule-strong mt-2 flex flex-col gap-3 border p-4"
	>
		<label class="flex items-center gap-2"
			><input type="checkbox" name="archives" value="1" checked={data.mailbox.archives} /> mail of this mailbox may be archived</label
		>
		<div class="flex flex-wrap items-end gap-4">
			<label class="flex flex-col gap-1"
				><span class="text-sm font-semibold">The office's financial year begins in</span>
				<select class="field" name="financialYear" value={String(data.financialYear)}>
					{#each MONTH_NAMES as month, at (month)}<option value={String(at + 1)}>{month}</option>{/each}
				</select>
			</label>
		</div>
		<LayoutFields layout={data.mailbox.layout} sample={data.sample} firstMonth={data.financialYear} />
		<div class="flex flex-wrap items-center gap-3">
			<button class="act">Save</button>
			<button class="quiet" name="anew" value="1" disabled={data.mailbox.archived.messages === 0}
				>Use it, and draft a docket that arranges the {showMessages(data.mailbox.archived.messages)} in the archive so</button
			>
		</div>
		<Refused message={refused('archiving')} />
		{#if answer?.archivingSet}<p role="status">{answer.archivingSet}</p>{/if}
	</form>
</details>
