<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { keepFields } from '$lib/keep-fields.ts';
	import { leftSentence } from '../../../core/docket/left.ts';
	import { runLeavesSentence } from '../../../core/retention/scheduled-run.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';

	let { data, form } = $props();

	const answer = $derived(form as { message?: string; set?: string; started?: boolean } | null);
	const MODES = { off: 'off', ask: 'ask first', do: 'automatic' } as const;
	let modes = $state<Record<number, keyof typeof MODES>>({});
</script>

<svelte:head><title>Scheduled run – Kovrel</title></svelte:head>

<h1>Scheduled run</h1>
<p class="mt-0.5 mb-3 max-w-3xl">
	Every night, or every few days, Kovrel puts the mail due in a mailbox on two dockets: one archives, one destroys.
	<b>Ask first</b> leaves it to you to carry them out. <b>Automatic</b> carries them out, once you have carried out the
	first of each kind. {runLeavesSentence()}
</p>
<Refused message={answer?.message} />
{#if answer?.set}<p role="status" class="mb-2">The scheduled run of {answer.set} is set.</p>{/if}
{#if answer?.started}<p role="status" class="mb-2">The run has started. Its result will be under the bell.</p>{/if}

{#if data.mailboxesRun.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		There is no mailbox yet. <a class="lead" href="/mailboxes">Import mail</a> first.
	</p>
{/if}
{#each data.mailboxesRun as run (run.mailboxId)}
	{@const mode = modes[run.mailboxId] ?? run.mode}
	<section class="bg-sheet border-rule-strong mb-3 border p-3" aria-label="Scheduled run of {run.mailbox}">
		<div class="flex flex-wrap items-baseline justify-between gap-4">
			<h2>{run.mailbox}</h2>
			<span class="text-ink-soft text-sm"
				>{run.ranOn ? `ran last on ${showDate(run.ranOn)}` : 'has never run'}; {MODES[run.mode]}</span
			>
		</div>
		<p class="mt-1" data-testid="would">
			{#if run.archive + run.destroy === 0}
				A run today would do nothing.
			{:else}
				A run today would archive <b>{showMessages(run.archive)}</b> and destroy
				<b class={run.destroy > 0 ? 'text-wax' : ''}>{showMessages(run.destroy)}</b>{run.mode === 'do'
					? ''
					: ', once you carry its dockets out'}.
				<a class="lead" href="/retain?in={run.mailboxId}">Show these messages</a>
			{/if}
			{#each run.left as left, at (at)}<span class="text-ink-soft block text-sm">{leftSentence(left)}</span>{/each}
		</p>
		{#each run.waiting as { id, name, messages } (id)}
			<p class="mt-1">
				<a class="lead" href="/dockets/{id}">Docket {id}, {name}: {showMessages(messages)}</a> waits for you.
			</p>
		{/each}
		<div class="mt-2 flex flex-wrap items-end gap-3">
			<form method="post" action="?/set" use:enhance={keepFields} class="flex flex-wrap items-end gap-3">
				<input type="hidden" name="mailbox" value={run.mailbox} />
				<input type="hidden" name="seen" value={run.archive + run.destroy} />
				<label class="flex flex-col gap-1 text-sm"
					>Scheduled run
					<select
						class="field"
						name="mode"
						value={mode}
						onchange={(event) => (modes[run.mailboxId] = event.currentTarget.value as keyof typeof MODES)}
					>
						{#each Object.entries(MODES) as [value, words] (value)}<option {value}>{words}</option>{/each}
					</select></label
				>
				<label class="flex flex-col gap-1 text-sm"
					>days between runs
					<input class="field w-24" type="number" name="every" min="1" max="366" value={run.every} /></label
				>
				{#each run.classes as { word, name, quotaBytes, isOwn } (word)}
					<label class="flex flex-col gap-1 text-sm"
						>{name}: quota (MB)
						<input
							class="field w-36"
							type="number"
							name="quota-{word}"
							min="1"
							step="any"
							placeholder={quotaBytes === undefined ? 'no quota' : `${quotaBytes / 1_000_000} everywhere`}
							value={isOwn && quotaBytes !== undefined ? quotaBytes / 1_000_000 : ''}
						/></label
					>
				{/each}
				<button class="act"
					>{run.mode === 'off' && mode !== 'off'
						? `Switch on: ${showCount(run.archive + run.destroy)} are due today`
						: 'Set'}</button
				>
			</form>
			{#if run.mode !== 'off'}
				<form method="post" action="?/run" use:enhance>
					<input type="hidden" name="mailbox" value={run.mailbox} />
					<button class="quiet">Run now</button>
				</form>
			{/if}
		</div>
		{#if run.classes.some(({ bytes }) => bytes > 0)}
			<p class="text-ink-soft mt-2 text-sm">
				Weight by class: {run.classes
					.filter(({ bytes }) => bytes > 0)
					.map(({ name, bytes }) => `${name} ${showBytes(bytes)}`)
					.join(', ')}.
			</p>
		{/if}
	</section>
{/each}
