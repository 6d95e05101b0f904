<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import type { FinishLine, FreedSoFar, MailboxWeight } from '$lib/server/weigh/index.ts';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showBytes, showCount } from '../../../core/weigh/units.ts';

	let {
		overview,
		refused
	}: {
		overview: { mailbox: MailboxWeight; finish: FinishLine; freed: FreedSoFar };
		refused?: string | undefined;
	} = $props();

	const { mailbox, finish } = $derived(overview);
	let setting = $state(false);

	/* The page for each step towards the line. */
	const wayTo = (step: FinishLine['next'][number]) => {
		const base = `/m/${mailbox.id}/clear`;
		if ('kind' in step) return `${base}/proposals?kind=${step.kind}`;
		if (step.wish === 'empty-bin') return `${base}/bin`;
		const { before, folder, query } = step.wish;
		if (query) return `${base}/lots?by=folder&q=${encodeURIComponent(query)}`;
		return `${base}?before=${before ?? ''}${folder ? `&folder=${encodeURIComponent(folder)}` : ''}`;
	};
	const nameOf = (step: FinishLine['next'][number]) => ('kind' in step ? step.name : step.what);
</script>

<section class="bg-sheet border-rule-strong mb-4 border p-3" aria-labelledby="finish-line">
	<div class="flex flex-wrap items-baseline gap-x-5 gap-y-1">
		<h2 id="finish-line">The finish line</h2>
		<p data-testid="finish-line">
			{#if finish.reached}
				<b>Reached:</b>
				{mailbox.quotaBytes === undefined ? '' : 'under the quota, and '}{showCount(finish.inbox.messages)} in the inbox.
			{:else}
				{#if finish.over > 0}<b class="text-wax">{showBytes(finish.over)} over the quota.</b
					>{:else if mailbox.quotaBytes !== undefined}Under the quota.{/if}
				<b>{showCount(finish.inbox.messages)}</b> in the inbox, {finish.inbox.messages <= finish.inbox.aim
					? 'which is what is aimed at'
					: `${showCount(finish.inbox.messages - finish.inbox.aim)} more than the ${showCount(finish.inbox.aim)} aimed at`}.
			{/if}
		</p>
		{#if setting}
			<form
				method="post"
				action="?/aim"
				use:enhance={() =>
					async ({ update }) => {
						await update();
						setting = false;
					}}
				class="flex items-center gap-2 text-sm"
			>
				<label
					>At most <input
						class="field w-20 py-0!"
						type="number"
						min="0"
						name="inboxAim"
						value={finish.inbox.aim}
						required
					/> in the inbox</label
				>
				<button class="quiet py-0!">Set</button>
			</form>
		{:else}
			<button class="lead text-sm" type="button" onclick={() => (setting = true)}>Aim at another number</button>
		{/if}
	</div>
	<Refused message={refused} />
	{#if !finish.reached && finish.next.length > 0}
		<ul class="mt-1.5 grid gap-x-6 text-sm *:min-w-0 md:grid-cols-2">
			{#each finish.next as step (nameOf(step))}
				<li class="flex justify-between gap-3 py-0.5">
					<a class="lead min-w-0 truncate py-0.5" href={wayTo(step)}>{nameOf(step)}</a><span class="whitespace-nowrap"
						>{showBytes(step.bytes)}</span
					>
				</li>
			{/each}
		</ul>
	{/if}
</section>
