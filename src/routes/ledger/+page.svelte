<script lang="ts">
	import Explain from '$lib/components/frames/Explain.svelte';
	import ShieldCheckIcon from '@lucide/svelte/icons/shield-check';
	import { enhance } from '$lib/enhance.ts';
	import JobProgress from '$lib/components/frames/JobProgress.svelte';
	import { jobs } from '$lib/jobs.svelte.ts';
	import { showMoment } from '$lib/moments.ts';
	import type { VerifyResult } from '$lib/server/backup/index.ts';
	import { keepFields } from '$lib/keep-fields.ts';
	import { damageInWords } from '../../core/archive/damage.ts';
	import { showDate } from '../../core/calendar.ts';
	import { ACTIONS } from '../../core/ledger/line.ts';
	import { particularsOf } from '../../core/ledger/words.ts';
	import { showBytes, showCount, showMessages, showShare } from '../../core/weigh/units.ts';

	let { data, form } = $props();
	const isAdministrator = $derived(data.person?.role === 'administrator');

	const answer = $derived(form as { message?: string; nightlySet?: boolean } | null);
	const backingUp = $derived(jobs.running.find(({ useCase }) => useCase === 'backUp'));
	const lastBackup = $derived(data.jobs.find(({ useCase }) => useCase === 'backUp'));

	const CHECKS = ['verifyArchive', 'verifyShare'];
	const checking = $derived(jobs.running.find(({ useCase }) => CHECKS.includes(useCase)));
	const last = $derived(data.jobs.find(({ useCase, state }) => useCase === 'verifyArchive' && state === 'done'));
	/* Of the nightly shares, the newest that found something. */
	const lastOfAny = $derived(data.jobs.find(({ useCase, state }) => CHECKS.includes(useCase) && state === 'done'));
	const damaged = $derived((lastOfAny?.result as VerifyResult | undefined)?.damaged ?? []);
	const result = $derived(last?.result as VerifyResult | undefined);
</script>

<svelte:head><title>Ledger – Kovrel</title></svelte:head>

<main class="px-3 sm:px-5 py-4">
	<div class="mb-4 flex items-start gap-6">
		<div class="flex-1">
			<div class="flex items-center gap-2">
				<h1>Ledger</h1>
				<Explain word="ledger" />
			</div>
			<p class="mt-1 max-w-3xl">
				Every action, who did it and when. Each line is sealed with the one before it, so that none can be changed or
				taken out unnoticed.
			</p>
			{#if data.checks}
				{@const { through, upTo, began, wholeOn } = data.checks}
				<p class="mt-2 max-w-3xl" data-testid="checks">
					Kovrel checks a share of everything each night, and all of it within 30 days.
					{#if through < upTo}This round began on {showDate(began)}; {showShare(through, upTo)} is done.{/if}
					{#if wholeOn}Everything was last checked on {showDate(wholeOn)}.{/if}
				</p>
			{/if}
			{#if data.checks?.damage}
				<div class="bg-wax-soft border-wax mt-3 max-w-3xl border-l-4 px-3 py-2" data-testid="damaged">
					<p>
						<b>{data.checks.damage}.</b> To repair it, run
						<code>kovrel repair --from PATH</code> with a backup, or with mail that has these messages.
					</p>
					{#if damaged.length > 0}
						<ul class="mt-1 list-disc pl-5 text-sm">
							{#each damaged as one, at (at)}<li>{damageInWords(one)}</li>{/each}
						</ul>
					{/if}
				</div>
			{/if}
			{#if checking}
				<div class="mt-3 max-w-lg"><JobProgress job={checking} /></div>
			{:else if result}
				<p class="mt-2" role="status" data-testid="verified">
					<b class:text-wax={!result.ok}>{result.ok ? 'All is well' : 'Something is wrong'}</b> (checked {showMoment(
						last?.endedAt
					)}): {showMessages(result.messages)}, {showBytes(result.bytes)}, {result.damaged.some(
						({ what }) => what === 'content'
					)
						? 'some of them damaged'
						: 'each as it came in'};
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
				<code>{data.backups.last.file}</code>{#if data.backups.isWanted && !data.backups.last.lacks}<b class="text-wax"
						>: that is more than a week ago</b
					>{/if}.
				{#if data.backups.last.damage?.length}<b class="text-wax"
						>It is damaged, as the data file is: {data.backups.last.damage.join('; ')}. Check everything, and import the
						damaged mail again or restore an earlier backup.</b
					>{/if}
			{:else}
				<b class="text-wax">No backup has been made yet.</b> Without one, this machine has the only copy.
			{/if}
			A backup is one file with everything in it. Work continues while it is made, and Kovrel checks it. The command
			<code>kovrel restore-backup</code> restores it, also on an empty machine.
		</p>
		{#if data.backups.last?.lacks}
			{@const { items, destroyed, file, itemsBefore } = data.backups.last.lacks}
			<form
				method="post"
				action="?/confirmBackup"
				use:enhance
				class="bg-wax-soft border-wax mt-2 max-w-4xl border-l-4 px-3 py-2 text-sm"
				data-testid="lacks"
			>
				<p>
					<b
						>{showMessages(items)} that <code>{file}</code> has {items === 1 ? 'is' : 'are'} missing from the last backup.</b
					>
					It had {showCount(itemsBefore)}; {destroyed === 0
						? 'none of them was'
						: `${showCount(destroyed)} of them were`} destroyed since. Keep that backup until you know why.
				</p>
				{#if isAdministrator}<button class="quiet mt-2">{items === 1 ? 'It is' : 'They are'} rightly missing</button
					>{/if}
			</form>
		{/if}
		{#if answer?.message}<p class="wrong mt-1" role="alert">{answer.message}</p>{/if}
		{#if backingUp}
			<div class="mt-2 max-w-lg"><JobProgress job={backingUp} /></div>
		{:else if lastBackup?.state === 'failed'}<p class="wrong mt-1" role="alert">{lastBackup.error}</p>{/if}
		{#if isAdministrator}<div class="mt-2 flex flex-wrap items-end gap-4">
				<form method="post" action="?/backUp" use:enhance class="flex flex-wrap items-end gap-2">
					<label class="flex flex-col gap-1 text-sm"
						>Folder on this machine, best on another disk
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
				<form method="post" action="?/nightly" use:enhance={keepFields} class="flex flex-wrap items-end gap-2">
					<label class="flex flex-col gap-1 text-sm"
						>Folder for a nightly backup (empty: none)
						<input class="field w-80" name="folder" value={data.backups.folder ?? ''} maxlength="4000" /></label
					>
					<button class="quiet">Set</button>
					{#if answer?.nightlySet}<span role="status" class="pb-1.5 text-sm">Saved.</span>{/if}
				</form>
			</div>{/if}
		{#if data.backups.backups.some(({ holdsDestroyed }) => holdsDestroyed)}
			<p class="mt-2 text-sm">
				These backups still hold what was destroyed since: {data.backups.backups
					.filter(({ holdsDestroyed }) => holdsDestroyed)
					.map(({ madeAt }) => showMoment(madeAt))
					.join(', ')}. Restoring one destroys that mail again. To remove it everywhere, delete these backups.
			</p>
		{/if}
	</section>
	{#if data.lines.length === 0}
		<p class="bg-sheet border-rule-strong border p-5">
			Nothing has been done yet. The first line is written when you import mail.
		</p>
	{:else}
		<table class="sheet">
			<thead
				><tr><th class="number">Line</th><th>When</th><th>Who</th><th>Action</th><th>Details</th><th>Seal</th></tr
				></thead
			>
			<tbody>
				{#each data.lines as line (line.number)}
					<tr>
						<td class="number">{showCount(line.number)}</td>
						<td class="whitespace-nowrap">{showMoment(line.at)}</td>
						<td class="name">{line.who}</td>
						<td class="whitespace-nowrap">{ACTIONS[line.action]}{line.details.continues ? ' (in part)' : ''}</td>
						<td class="name"
							>{#each particularsOf(line.details, line.action) as { name, value }, at (at)}{#if at > 0}<span
										aria-hidden="true">&ensp;</span
									>{/if}<span class="text-ink-soft text-xs">{name}</span>
								{value}{/each}</td
						>
						<td
							><code class="text-ink-soft text-xs whitespace-nowrap" title={line.hash}>{line.hash.slice(0, 12)}</code
							></td
						>
					</tr>
				{/each}
			</tbody>
		</table>
		{#if data.more}<p class="mt-3">
				<a class="quiet" href="/ledger?before={data.lines.at(-1)?.number}">Earlier lines</a>
			</p>{/if}
	{/if}
</main>
