<script lang="ts">
	import CheckIcon from '@lucide/svelte/icons/check';
	import JobProgress from '$lib/components/frames/JobProgress.svelte';
	import { jobs } from '$lib/jobs.svelte.ts';

	let { data } = $props();

	const steps = $derived(data.steps);
	const coming = $derived(
		jobs.running.filter(({ useCase }) => useCase === 'importMailbox' || useCase === 'followSources')
	);
	const base = $derived(steps.mailbox ? `/m/${steps.mailbox.id}` : '');
	const hasMail = $derived(steps.mailbox?.hasMail === true);
	/* In their order; the first that is not done is the next. */
	const list = $derived([
		{ name: 'Make yourself the administrator', isDone: true },
		{ name: 'Import mail', isDone: hasMail },
		{ name: 'Weigh the mailbox, and draft one small docket', isDone: steps.hasCarriedOut },
		{ name: 'Take it back', isDone: steps.hasTakenBack },
		{ name: 'Make a backup', isDone: hasMail && steps.hasBackup }
	]);
	const next = $derived(list.findIndex(({ isDone }) => !isDone));
</script>

<svelte:head><title>First steps – Kovrel</title></svelte:head>

<main class="max-w-3xl px-3 py-5 sm:px-5">
	<h1>First steps</h1>
	<p class="mt-1 mb-4">
		{next === -1 ? 'All steps are done.' : 'Nothing here is final: the fourth step takes the third back.'}
	</p>
	<ol class="flex flex-col gap-3">
		{#each list as { name, isDone }, at (name)}
			<li
				class="bg-sheet border p-4"
				class:border-stamp={at === next}
				class:border-rule-strong={at !== next}
				aria-current={at === next ? 'step' : undefined}
			>
				<h2 class="flex items-center gap-2">
					<span class="w-6 text-center"
						>{#if isDone}<CheckIcon size={18} aria-hidden="true" /><span class="sr-only">done:</span>{:else}{at +
								1}{/if}</span
					>
					{name}
				</h2>
				{#if at === next}
					<div class="mt-2 flex flex-col gap-2 pl-8">
						{#if at === 1}
							<p>
								Import a file, or connect a mailbox on its mail server. Kovrel only reads there until you allow more.
							</p>
							<div class="flex flex-wrap gap-2">
								<a class="act" href="/mailboxes">Import mail</a>
								<a class="quiet" href="/mailboxes/live">Connect a mailbox</a>
							</div>
							{#each coming as job (job.id)}<JobProgress {job} />{/each}
						{:else if at === 2}
							<p>
								Weigh ranks what would free most. A docket lists decisions that are not carried out yet: draft one, read
								it, and carry it out.
							</p>
							<div><a class="act" href="{base}/weigh">Weigh {steps.mailbox?.name}</a></div>
						{:else if at === 3}
							<p>Press <i>Take back</i> on the docket. Every message is in its folder again, as it was.</p>
							<div><a class="act" href="{base}/clear">Open the docket</a></div>
						{:else if at === 4}
							<p>Kovrel holds the only copy of archived mail. Keep a backup on another disk, best one every night.</p>
							<div><a class="act" href="/ledger#backup">Make a backup</a></div>
						{/if}
					</div>
				{/if}
			</li>
		{/each}
	</ol>
	{#if hasMail}
		<p class="mt-4">
			Then <a class="lead" href="{base}/lists">stop the inflow</a>,
			<a class="lead" href="{base}/clear">archive old mail</a>,
			<a class="lead" href="/retain/schedule">set periods</a> and <a class="lead" href="/people">add colleagues</a>.
		</p>
	{/if}
</main>
