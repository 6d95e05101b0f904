<script lang="ts">
	import type { SubmitFunction } from '@sveltejs/kit';
	import { enhance } from '$app/forms';
	import type { DocketView } from '$lib/server/work/prepare-docket.ts';
	import type { MailboxWeight } from '$lib/server/work/weigh.ts';
	import JobProgress from '$lib/components/JobProgress.svelte';
	import QuotaBar from '$lib/components/QuotaBar.svelte';
	import Refused from '$lib/components/Refused.svelte';
	import { jobs } from '$lib/jobs.svelte.ts';
	import { showMoment } from '$lib/moments.ts';
	import { leftSentence } from '../../core/docket/effects.ts';
	import { showBytes, showCount, showMessages } from '../../core/weigh/units.ts';

	let { docket, mailbox }: { docket: DocketView | null; mailbox: MailboxWeight } = $props();

	const decision = $derived(docket?.lines[0]?.decision);
	const left = $derived(docket?.lines.flatMap((line) => line.left) ?? []);
	const job = $derived(jobs.running.find(({ label }) => docket && label.startsWith(`Docket ${docket.id}:`)));
	const freed = $derived(docket?.state === 'drafted' && decision === 'archive' ? docket.bytes : 0);
	// carried out in the background: why that was refused is told by the job
	const failed = $derived(
		[...jobs.all.values()].findLast(({ label }) => docket && label.startsWith(`Docket ${docket.id}:`))
	);
	let refused = $state<string>();

	/* An answer that refuses is shown on the slip itself, wherever the slip is. */
	const submit: SubmitFunction = () => {
		refused = undefined;
		return async ({ result, update }) => {
			if (result.type === 'failure') refused = String(result.data?.message ?? 'It could not be done.');
			await update({ reset: false });
		};
	};
</script>

<aside class="slip" aria-label="Docket">
	<h2 class="flex items-baseline justify-between">
		<span>Docket{docket ? ` ${docket.id}` : ''}</span>
		{#if docket}<span class="stamp" data-testid="docket-state">{docket.state.replace('-', ' ')}</span>{/if}
	</h2>
	<Refused message={refused ?? (failed?.state === 'failed' ? (failed.error ?? undefined) : undefined)} />
	{#if !docket}
		<p class="text-ink-soft">
			Decisions are collected here. Nothing happens until the docket is carried out, and it can be taken back
			afterwards.
		</p>
		<p><a class="lead" href="/m/{mailbox.id}/clear">Archive what is old</a> to draft one.</p>
	{:else}
		<div class="text-[1.02rem] leading-snug" data-testid="docket-sentence">
			{#each docket.sentences as sentence (sentence)}<p>{sentence}</p>{/each}
		</div>
		{#if docket.state === 'drafted'}
			<ul class="text-ink-soft flex flex-col gap-1 text-sm">
				{#each left as entry (entry.reason)}<li>{leftSentence(entry)}</li>{/each}
			</ul>
			{#if freed > 0}
				<div class="flex flex-col gap-1.5">
					<QuotaBar bytes={mailbox.bytes} quota={mailbox.quotaBytes} after={mailbox.bytes - freed} />
					<p class="text-sm">
						{showBytes(mailbox.bytes)} now, <b>{showBytes(mailbox.bytes - freed)}</b> afterwards. Archived mail stays searchable
						and can be had back.
					</p>
				</div>
			{/if}
			<form method="post" action="/dockets/{docket.id}?/carryOut" use:enhance={submit} class="flex flex-col gap-2">
				<input type="hidden" name="messages" value={docket.messages} />
				<input type="hidden" name="bytes" value={docket.bytes} />
				<button class="act justify-center" disabled={docket.messages === 0}>
					{docket.messages === 0 ? 'Nothing to carry out' : `Carry out: ${decision} ${showMessages(docket.messages)}`}
				</button>
				<button class="quiet justify-center" formaction="/dockets/{docket.id}?/drop">Drop this docket</button>
			</form>
			<a class="lead text-sm" href="/dockets/{docket.id}">Folder by folder</a>
		{:else if job}
			<JobProgress {job} />
		{:else if docket.state === 'carrying-out' || docket.state === 'taking-back'}
			<p>It was stopped on the way. What is done is kept.</p>
			<form
				method="post"
				action="/dockets/{docket.id}?/{docket.state === 'carrying-out' ? 'carryOut' : 'takeBack'}"
				use:enhance={submit}
				class="flex flex-col gap-2"
			>
				<button class="act justify-center">Go on</button>
				{#if docket.state === 'carrying-out'}<button
						class="quiet justify-center"
						formaction="/dockets/{docket.id}?/takeBack">Take back what is done</button
					>{/if}
			</form>
		{:else if docket.state === 'carried-out'}
			<p class="text-ink-soft text-sm">Carried out {showMoment(docket.carriedOutAt)} by {docket.carriedOutBy}.</p>
			<form method="post" action="/dockets/{docket.id}?/takeBack" use:enhance={submit}>
				<button class="quiet w-full justify-center">Take back {showMessages(docket.messages)}</button>
			</form>
			<a class="lead text-sm" href="/dockets/{docket.id}">Folder by folder</a>
		{:else}
			<p class="text-ink-soft text-sm">
				Taken back {showMoment(docket.takenBackAt)}: {showMessages(docket.takenBackMessages)}
				{docket.takenBackMessages === 1 ? 'is' : 'are'} as before{#if docket.takenBackMessages < docket.messages}; {showCount(
						docket.messages - docket.takenBackMessages
					)} had been changed since and stayed{/if}.
			</p>
		{/if}
	{/if}
</aside>

<style>
	/* a slip torn off a pad */
	.slip {
		position: sticky;
		top: 1rem;
		align-self: start;
		display: flex;
		flex-direction: column;
		gap: 0.75rem;
		padding: 1rem 1.1rem 1.2rem;
		background: var(--docket);
		border: 1px solid var(--rule-strong);
		border-top: 3px dashed var(--rule-strong);
	}
	.stamp {
		font:
			600 0.8rem 'Source Sans 3 Variable',
			sans-serif;
		color: var(--stamp);
		border: 1.5px solid var(--stamp);
		border-radius: 3px;
		padding: 1px 8px;
	}
</style>
