<script lang="ts">
	import UploadIcon from '@lucide/svelte/icons/upload';
	import { Progress } from '@skeletonlabs/skeleton-svelte';
	import { untrack } from 'svelte';
	import { page } from '$app/state';
	import JobProgress from '$lib/components/frames/JobProgress.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { jobs } from '$lib/jobs.svelte.ts';
	import { showMoment } from '$lib/moments.ts';
	import { type SelectedFile, droppedFiles, inputFiles, upload } from '$lib/upload.ts';
	import { showBytes, showCount, showShare } from '../../core/weigh/units.ts';

	let { data } = $props();

	let mailbox = $state(untrack(() => data.mailboxes[0]?.name ?? ''));
	let folder = $state('');
	let files = $state.raw<SelectedFile[]>([]);
	let sent = $state<number>();
	let wrong = $state<string>();
	let over = $state(false);
	let stop = $state.raw<AbortController>();
	let lastJob = $state<number>();

	const bytes = $derived(files.reduce((sum, { file }) => sum + file.size, 0));
	const source = $derived(
		files.length === 1
			? (files[0]?.path ?? '')
			: files[0]?.path.includes('/')
				? (files[0].path.split('/')[0] ?? '')
				: `${files.length} files`
	);
	const importing = $derived(jobs.running.filter(({ useCase }) => useCase === 'importMailbox'));
	const ended = $derived(lastJob === undefined ? undefined : jobs.all.get(lastJob));
	const mailboxName = (id: number) => data.mailboxes.find((candidate) => candidate.id === id)?.name ?? '';

	async function send(event: SubmitEvent) {
		event.preventDefault();
		wrong = undefined;
		sent = 0;
		stop = new AbortController();
		try {
			// a selected folder stands for its content: its name is not a folder of the mailbox
			const within = files.map(({ file, path }) => ({
				file,
				path: files.every((other) => other.path.startsWith(`${source}/`)) ? path.slice(source.length + 1) : path
			}));
			lastJob = await upload({ mailbox, folder, source }, within, stop.signal, (done) => (sent = done));
			files = [];
		} catch (error) {
			wrong = stop.signal.aborted
				? 'Stopped. Nothing was imported.'
				: `${error instanceof Error ? error.message : String(error)} Nothing was imported yet; send it again.`;
		} finally {
			sent = undefined;
		}
	}

	async function drop(event: DragEvent) {
		event.preventDefault();
		over = false;
		if (event.dataTransfer) files = await droppedFiles(event.dataTransfer);
	}
</script>

<svelte:head><title>Import mail – Kovrel</title></svelte:head>

<main class="px-3 sm:px-5 py-4">
	<h1>Import mail</h1>
	<p class="mt-1 mb-4 max-w-3xl">
		An mbox file, a single message (EML), or a folder of them; told apart by what is in them. The bytes of each message
		are kept exactly as they come. Importing the same mail again adds nothing. Files of any size go faster from the
		terminal: <code>npm run kovrel -- import PATH --mailbox NAME</code>. Mail that lives on a mail server is followed
		there:
		<a class="lead" href="/mailboxes/live">live mailboxes</a>.
	</p>
	<form onsubmit={send} class="bg-sheet border-rule-strong flex max-w-4xl flex-col gap-4 border p-4">
		<div
			class="drop"
			class:over
			role="group"
			aria-label="Files to import"
			ondragover={(event) => {
				event.preventDefault();
				over = true;
			}}
			ondragleave={() => (over = false)}
			ondrop={drop}
		>
			<UploadIcon size={20} aria-hidden="true" />
			<span>Drop a file or folder here, or</span>
			<label class="quiet"
				>select files<input
					class="sr-only"
					type="file"
					multiple
					onchange={(event) => event.currentTarget.files && (files = inputFiles(event.currentTarget.files))}
				/></label
			>
			<label class="quiet"
				>select a folder<input
					class="sr-only"
					type="file"
					webkitdirectory
					onchange={(event) => event.currentTarget.files && (files = inputFiles(event.currentTarget.files))}
				/></label
			>
		</div>
		{#if files.length > 0}<p role="status">
				<b>{source}</b>: {showCount(files.length)}
				{files.length === 1 ? 'file' : 'files'}, {showBytes(bytes)}
			</p>{/if}
		<div class="flex flex-wrap items-end gap-4">
			<label class="flex flex-col gap-1"
				><span class="text-sm font-semibold">Into the mailbox</span>
				<input
					class="field w-64"
					list="mailboxes"
					bind:value={mailbox}
					required
					maxlength="200"
					placeholder="a new or an existing one"
				/>
				<datalist id="mailboxes"
					>{#each data.mailboxes as { id, name } (id)}<option value={name}></option>{/each}</datalist
				>
			</label>
			<label class="flex flex-col gap-1"
				><span class="text-sm font-semibold">Folder <span class="text-ink-soft font-normal">(empty: Inbox)</span></span>
				<input class="field w-64" bind:value={folder} maxlength="1000" placeholder="Projects/Slipway" />
			</label>
			<button class="act" disabled={files.length === 0 || sent !== undefined}
				>Import {files.length === 0 ? '' : showBytes(bytes)}</button
			>
		</div>
		<Refused message={wrong} />
		{#if sent !== undefined}
			<div class="flex items-end gap-3">
				<Progress value={bytes > 0 ? Math.floor((100 * sent) / bytes) : null} class="flex-1 gap-1">
					<Progress.Label class="text-sm"
						>Sending: {showBytes(sent)} of {showBytes(bytes)} ({showShare(sent, bytes)})</Progress.Label
					>
					<Progress.Track class="bg-rule h-2 rounded-none"><Progress.Range class="amount bg-stamp" /></Progress.Track>
				</Progress>
				<button class="quiet" type="button" onclick={() => stop?.abort()}>Stop</button>
			</div>
		{/if}
		{#each importing as job (job.id)}<JobProgress {job} />{/each}
		{#if ended && ended.state !== 'running'}
			<p role="status" data-testid="brought-in" class:wrong={ended.state === 'failed'}>
				{#if ended.state === 'failed'}{ended.error}{:else}
					{@const result = ended.result as { read: number; added: number; already: number; unreadable: number } | null}
					{ended.state === 'stopped' ? 'Stopped. ' : ''}{showCount(result?.read ?? 0)} read: {showCount(
						result?.added ?? 0
					)} added, {showCount(result?.already ?? 0)} there already, {showCount(result?.unreadable ?? 0)} kept raw.
				{/if}
			</p>
		{/if}
	</form>

	<h2 class="mt-6 mb-1.5">Imports</h2>
	{#if data.imports.length === 0}
		<p class="bg-sheet border-rule-strong max-w-4xl border p-5">Nothing was imported yet.</p>
	{:else}
		<table class="sheet">
			<thead
				><tr
					><th>When</th><th>From</th><th>Into</th><th class="number">Read</th><th class="number">Added</th><th
						class="number">There already</th
					><th class="number">Kept raw</th><th class="number">Size</th><th class="number">Odd</th></tr
				></thead
			>
			<tbody>
				{#each data.imports as entry (entry.id)}
					<tr>
						<td class="whitespace-nowrap"
							>{showMoment(entry.beganAt)}{entry.state === 'done' ? '' : `, ${entry.state}`}</td
						>
						<td class="max-w-72 truncate" title={entry.source}>{entry.source}</td>
						<td><a class="lead" href="/m/{entry.mailboxId}/weigh">{mailboxName(entry.mailboxId)}</a></td>
						<td class="number">{showCount(entry.read)}</td>
						<td class="number">{showCount(entry.added)}</td>
						<td class="number">{showCount(entry.already)}</td>
						<td class="number">{showCount(entry.unreadable)}</td>
						<td class="number">{showBytes(entry.bytes)}</td>
						<td class="number"
							>{#if entry.odd > 0}<a
									class="lead"
									href="?report={entry.id}#report"
									aria-current={page.url.searchParams.get('report') === String(entry.id) ? 'true' : undefined}
									>{showCount(entry.odd)}</a
								>{:else}0{/if}</td
						>
					</tr>
				{/each}
			</tbody>
		</table>
	{/if}

	{#if data.report}
		<h2 id="report" class="mt-6 mb-1.5">Odd in import {data.report.importId}</h2>
		<table class="sheet max-w-4xl">
			<thead><tr><th>Where</th><th>Why</th><th class="number">Size</th><th>Bytes</th></tr></thead>
			<tbody>
				{#each data.report.oddities as oddity (oddity.id)}
					<tr
						><td class="break-all">{oddity.place}</td><td>{oddity.reason}</td><td class="number"
							>{showBytes(oddity.bytes)}</td
						><td><a class="lead" href="/oddities/{oddity.id}" download>Download the raw bytes</a></td></tr
					>
				{/each}
			</tbody>
		</table>
	{/if}
</main>

<style>
	.drop {
		display: flex;
		align-items: center;
		justify-content: center;
		gap: 0.75rem;
		padding: 1.4rem;
		border: 2px dashed var(--rule-strong);
		background: var(--paper);
	}
	.drop.over {
		border-color: var(--stamp);
		background: var(--stamp-soft);
	}
	.drop:has(input:focus-visible) label:focus-within {
		outline: 2px solid var(--stamp);
		outline-offset: 2px;
	}
</style>
