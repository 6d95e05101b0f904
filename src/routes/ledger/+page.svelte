<script lang="ts">
	import ShieldCheckIcon from '@lucide/svelte/icons/shield-check';
	import { enhance } from '$app/forms';
	import JobProgress from '$lib/components/JobProgress.svelte';
	import { jobs } from '$lib/jobs.svelte.ts';
	import { showMoment } from '$lib/moments.ts';
	import type { VerifyResult } from '$lib/server/work/verify-archive.ts';
	import { ACTIONS } from '../../core/ledger/line.ts';
	import { showBytes, showCount, showMessages } from '../../core/weigh/units.ts';

	let { data } = $props();

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
		if (details.messageId) return `${text('mailbox')}: ${showMessages(number('messages'))} up to ${text('day')}`;
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
						: `${showCount(result.weightsDiffering)} sums differ from a fresh count`}.
				</p>
			{/if}
		</div>
		<form method="post" action="?/verify" use:enhance>
			<button class="act" disabled={checking !== undefined}
				><ShieldCheckIcon size={16} aria-hidden="true" /> Check everything</button
			>
		</form>
	</div>
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
