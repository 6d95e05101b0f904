<script lang="ts">
	import type { SubmitFunction } from '@sveltejs/kit';
	import { enhance } from '$lib/enhance.ts';
	import { page } from '$app/state';
	import JobProgress from '$lib/components/frames/JobProgress.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { jobs } from '$lib/jobs.svelte.ts';
	import type { DocketView } from '$lib/server/docket/index.ts';
	import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';

	/* One person's drafts in several mailboxes. Each is carried out by itself; those that destroy, on their own page. */
	let { drafts }: { drafts: readonly DocketView[] } = $props();

	const sum = (of: (docket: DocketView) => number) => drafts.reduce((total, docket) => total + of(docket), 0);
	const decided = (docket: DocketView) => docket.messages + docket.onLists;
	/* What is confirmed in so many words, or approved by a second person, is not carried out among others. */
	const ready = $derived(
		drafts.filter((docket) => docket.state === 'drafted' && !docket.destroys && decided(docket) > 0)
	);
	const jobOf = (id: number) =>
		jobs.running.find(({ about }) => about?.kind === 'docket' && 'docket' in about && about.docket === id);
	let refused = $state<string>();

	const submit: SubmitFunction = () => {
		refused = undefined;
		return async ({ result, update }) => {
			if (result.type === 'failure') refused = String(result.data?.message ?? 'It could not be done.');
			await update({ reset: false });
		};
	};
</script>

<aside class="slip" aria-label="Dockets">
	<h2>{drafts.length === 0 ? 'Dockets' : drafts.length === 1 ? '1 docket' : `${showCount(drafts.length)} dockets`}</h2>
	<Refused message={refused} />
	{#if drafts.length === 0}
		<p class="text-ink-soft text-sm">
			A docket lists decisions that are not carried out yet, one a mailbox. Your drafts in these mailboxes show here
			with their sum.
		</p>
	{:else}
		<p class="text-sm" data-testid="sum">
			{showMessages(sum(({ messages }) => messages))} ({showBytes(sum(({ bytes }) => bytes))}). Frees
			<b>{showBytes(sum(({ freedAtOnce }) => freedAtOnce))}</b> at once{#if sum(({ freedLater }) => freedLater) > 0},
				and
				{showBytes(sum(({ freedLater }) => freedLater))} once the bins are empty{/if}.
		</p>
		<ul class="flex flex-col gap-2">
			{#each drafts as docket (docket.id)}
				{@const job = jobOf(docket.id)}
				<li class="border-rule border-t pt-2 text-sm" data-docket={docket.id}>
					<b>{docket.mailbox}</b>
					<a class="lead" href="/dockets/{docket.id}">docket {docket.id}</a>
					{#each docket.sentences as sentence, at (at)}<p>{sentence}</p>{/each}
					{#if job}<JobProgress {job} />
					{:else if docket.destroys}<p class="text-wax">It destroys: open it to carry it out.</p>
					{:else}
						<form method="post" action="/dockets/{docket.id}?/drop" use:enhance={submit}>
							<button class="lead" aria-label="Discard docket {docket.id}">Discard</button>
						</form>
					{/if}
				</li>
			{/each}
		</ul>
		<form method="post" action="/clear?/carryOut{page.url.search.replace('?', '&')}" use:enhance={submit}>
			{#each ready as { id, messages, bytes } (id)}
				<input type="hidden" name="docket" value="{id}:{messages}:{bytes}" />
			{/each}
			<button class="act mt-2 w-full" disabled={ready.length === 0}
				>{ready.length === 0
					? 'Nothing to carry out here'
					: ready.length === 1
						? `Carry out docket ${ready[0]?.id}`
						: `Carry out ${showCount(ready.length)} dockets`}</button
			>
		</form>
	{/if}
</aside>

<style>
	.slip {
		display: flex;
		flex-direction: column;
		gap: 0.5rem;
		align-self: start;
		position: sticky;
		top: 0.75rem;
		max-height: calc(100vh - 1.5rem);
		overflow: auto;
		padding: 0.75rem 1rem 1rem;
		border: 1px solid var(--rule-strong);
		background: var(--docket);
	}
</style>
