<script lang="ts">
	import ShieldCheckIcon from '@lucide/svelte/icons/shield-check';
	import { enhance } from '$app/forms';
	import JobProgress from '$lib/components/JobProgress.svelte';
	import { jobs } from '$lib/jobs.svelte.ts';
	import { showMoment } from '$lib/moments.ts';
	import type { VerifyResult } from '$lib/server/work/verify-archive.ts';
	import { keepFields } from '$lib/keep-fields.ts';
	import { ACTIONS } from '../../core/ledger/line.ts';
	import { showBytes, showCount, showMessages } from '../../core/weigh/units.ts';

	let { data, form } = $props();
	const isAdministrator = $derived(data.person?.role === 'administrator');

	const answer = $derived(form as { message?: string; nightlySet?: boolean } | null);
	const backingUp = $derived(jobs.running.find(({ useCase }) => useCase === 'backUp'));
	const lastBackup = $derived(data.jobs.find(({ useCase }) => useCase === 'backUp'));

	const checking = $derived(jobs.running.find(({ useCase }) => useCase === 'verifyArchive'));
	const last = $derived(data.jobs.find(({ useCase, state }) => useCase === 'verifyArchive' && state === 'done'));
	const result = $derived(last?.result as VerifyResult | undefined);

	/* What a line tells, in words. */
	function says(details: Record<string, unknown>): string {
		const text = (key: string) => (typeof details[key] === 'string' ? (details[key] as string) : '');
		const number = (key: string) => (typeof details[key] === 'number' ? (details[key] as number) : 0);
		if (details.import)
			return `${text('mailbox')}: ${showMessages(number('added'))} added, ${showCount(number('already'))} there already, ${showCount(number('unreadable'))} kept raw, from ${text('source')}`;
		if (details.docket)
			return `Docket ${number('docket')}, ${text('mailbox')}: ${text('what')}${details.continues ? ` So far ${showMessages(number('messages'))} more.` : ''}`;
		if (details.quota) return `${text('mailbox')}: ${text('quota')}, before ${text('before')}`;
		if (details.written !== undefined)
			return `${text('mailbox')}: ${showMessages(number('written'))} (${showBytes(number('bytes'))}) as ${text('format')}${details.query ? `, found by ${text('query')}` : ''}`;
		if (details.hold)
			return `${text('hold')}: ${text('what')} ${showMessages(number('messages'))}. Because: ${text('because')}`;
		if (details.list && details.way)
			return `${text('mailbox')}: ${text('list')}, by ${text('way')}: ${text('state')}${details.answer ? `, ${text('answer')}` : ''}`;
		if (details.verdict) return `${text('kind')} ${text('value')}: ${text('verdict')}`;
		if (details.version)
			return `${text('code')}, version ${number('version')}: ${text('title')}. Because: ${text('because')}`;
		if (details.folders && Array.isArray(details.folders))
			return `${(details.folders as string[]).slice(0, 3).join('; ')}${details.folders.length > 3 ? ` and ${details.folders.length - 3} more` : ''}: ${[text('retention'), text('class'), text('closed') && `closed: ${text('closed')}`, text('because') && `because ${text('because')}`].filter(Boolean).join(', ')}`;
		if (details.named || details.default || details.retention)
			return [text('mailbox'), text('named'), text('class'), text('default') || text('retention')]
				.filter(Boolean)
				.join(': ');
		if (details.mode) return `${text('mailbox')}: ${text('mode')}, before ${text('before')}`;
		if (details.sha256) return `${text('file')} (${showBytes(number('bytes'))})`;
		if (details.code) return `${text('code')}. Because: ${text('because')}`;
		if (details.messageId) return `${text('mailbox')}: ${showMessages(number('messages'))} up to ${text('day')}`;
		if (details.request)
			return [
				text('to'),
				text('mailbox'),
				text('wish'),
				details.restored ? `${showMessages(number('restored'))} restored` : '',
				text('state'),
				text('because')
			]
				.filter(Boolean)
				.join(', ');
		if (details.grant)
			return [
				text('to'),
				[text('mailbox'), text('folder')].filter(Boolean).join('/'),
				text('may'),
				text('until') && `until ${text('until')}`
			]
				.filter(Boolean)
				.join(', ');
		if (details.item) return `${text('mailbox')}/${text('folder')}, message ${number('item')}: ${text('what')}`;
		if (details.person)
			return [text('person'), text('role'), details.back ? 'let in again' : ''].filter(Boolean).join(', ');
		if (details.group)
			return `${text('group')}: ${details.removed ? 'removed' : ((details.members as string[] | undefined) ?? []).join(', ')}`;
		if (details.owner) return `${text('mailbox')}: ${text('owner')}`;
		if (details.codes || details.approval)
			return [text('codes') && `one-time codes ${text('codes')}`, text('approval') && `approval ${text('approval')}`]
				.filter(Boolean)
				.join('; ');
		return text('mailbox');
	}
</script>

<svelte:head><title>Ledger – Kovrel</title></svelte:head>

<main class="px-5 py-4">
	<div class="mb-4 flex items-start gap-6">
		<div class="flex-1">
			<h1>Ledger</h1>
			<p class="mt-1 max-w-3xl">
				Everything that was done here, by whom and when. Each line is sealed with the one before it, so that none can be
				changed or taken out unnoticed.
			</p>
			{#if checking}
				<div class="mt-3 max-w-lg"><JobProgress job={checking} /></div>
			{:else if result}
				<p class="mt-2" role="status" data-testid="verified">
					<b class:text-wax={!result.ok}>{result.ok ? 'All is well' : 'Something is wrong'}</b> (checked {showMoment(
						last?.endedAt
					)}): {showMessages(result.messages)}, {showBytes(result.bytes)}, {result.damaged.length === 0
						? 'each as it came in'
						: `${showCount(result.damaged.length)} damaged`};
					{showCount(result.ledger.lines)} lines {result.ledger.ok
						? 'unbroken'
						: `broken at line ${result.ledger.brokenAt}`};
					{result.weightsDiffering === 0
						? 'the sums agree with a fresh count'
						: `${showCount(result.weightsDiffering)} sums differ from a fresh count`}{#if result.certificatesDiffering?.length};
						<b class="text-wax"
							>certificates that are not what the ledger says: dockets {result.certificatesDiffering.join(', ')}</b
						>{/if}.
				</p>
			{/if}
		</div>
		{#if isAdministrator}<form method="post" action="?/verify" use:enhance>
				<button class="act" disabled={checking !== undefined}
					><ShieldCheckIcon size={16} aria-hidden="true" /> Check everything</button
				>
			</form>{/if}
	</div>
	<section id="backup" class="bg-sheet border-rule-strong mb-4 border p-3" aria-label="Backups">
		<h2>Backups</h2>
		<p class="mt-1 max-w-4xl text-sm" data-testid="backup">
			{#if data.backups.last}
				The last backup was made {showMoment(data.backups.last.madeAt)} ({showBytes(data.backups.last.bytes)}), as
				<code>{data.backups.last.file}</code>{#if data.backups.isWanted}<b class="text-wax"
						>: that is more than a week ago</b
					>{/if}.
			{:else}
				<b class="text-wax">No backup has been made yet.</b> Without one, this machine has the only copy.
			{/if}
			A backup is one file with everything, made while all goes on, and opened and checked. The command
			<code>kovrel restore-backup</code> brings it back, also onto an empty machine.
		</p>
		{#if answer?.message}<p class="wrong mt-1" role="alert">{answer.message}</p>{/if}
		{#if backingUp}
			<div class="mt-2 max-w-lg"><JobProgress job={backingUp} /></div>
		{:else if lastBackup?.state === 'failed'}<p class="wrong mt-1" role="alert">{lastBackup.error}</p>{/if}
		{#if isAdministrator}<div class="mt-2 flex flex-wrap items-end gap-4">
				<form method="post" action="?/backUp" use:enhance class="flex items-end gap-2">
					<label class="flex flex-col gap-1 text-sm"
						>To a folder of this machine, best on another disk
						<input
							class="field w-80"
							name="out"
							value={data.backups.folder ?? ''}
							required
							maxlength="4000"
							placeholder="/mnt/backups"
						/></label
					>
					<button class={data.backups.isWanted ? 'act' : 'quiet'} disabled={backingUp !== undefined}>Back up now</button
					>
				</form>
				<form method="post" action="?/nightly" use:enhance={keepFields} class="flex items-end gap-2">
					<label class="flex flex-col gap-1 text-sm"
						>Every night to this folder (empty: not)
						<input class="field w-80" name="folder" value={data.backups.folder ?? ''} maxlength="4000" /></label
					>
					<button class="quiet">Set</button>
					{#if answer?.nightlySet}<span role="status" class="pb-1.5 text-sm">It is set.</span>{/if}
				</form>
			</div>{/if}
		{#if data.backups.backups.some(({ holdsDestroyed }) => holdsDestroyed)}
			<p class="mt-2 text-sm">
				These backups still hold what was destroyed since: {data.backups.backups
					.filter(({ holdsDestroyed }) => holdsDestroyed)
					.map(({ madeAt }) => showMoment(madeAt))
					.join(', ')}. Restoring one destroys it again; to be rid of it everywhere, delete them.
			</p>
		{/if}
	</section>
	{#if data.lines.length === 0}
		<p class="bg-sheet border-rule-strong border p-5">
			Nothing has been done yet. The first line is written when mail is brought in.
		</p>
	{:else}
		<table class="sheet">
			<thead><tr><th class="number">Line</th><th>When</th><th>Who</th><th>Did</th><th>What</th><th>Seal</th></tr></thead
			>
			<tbody>
				{#each data.lines as line (line.number)}
					<tr>
						<td class="number">{showCount(line.number)}</td>
						<td class="whitespace-nowrap">{showMoment(line.at)}</td>
						<td>{line.who}</td>
						<td class="whitespace-nowrap">{ACTIONS[line.action]}{line.details.continues ? ' (in part)' : ''}</td>
						<td class="break-words">{says(line.details)}</td>
						<td><code class="text-ink-soft text-xs" title={line.hash}>{line.hash.slice(0, 12)}</code></td>
					</tr>
				{/each}
			</tbody>
		</table>
		{#if data.more}<p class="mt-3">
				<a class="quiet" href="/ledger?before={data.lines.at(-1)?.number}">Earlier lines</a>
			</p>{/if}
	{/if}
</main>
