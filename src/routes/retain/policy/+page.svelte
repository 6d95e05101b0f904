<script lang="ts">
	import { enhance } from '$app/forms';
	import PeriodField from '$lib/components/PeriodField.svelte';
	import Refused from '$lib/components/Refused.svelte';
	import { askedPeriod, formOf } from '$lib/retention-forms.ts';
	import { readPeriod } from '../../../core/retention/periods.ts';
	import { termsWords } from '../../../core/retention/sentences.ts';
	import { MONTH_NAMES, showDate } from '../../../core/calendar.ts';

	let { data, form } = $props();

	const answer = $derived(form as { message?: string; set?: boolean } | null);
	const policy = $derived(data.policy);
	// svelte-ignore state_referenced_locally
	let least = $state(formOf(readPeriod(data.policy.settings.ownLeast)));
	// svelte-ignore state_referenced_locally
	let most = $state(formOf(readPeriod(data.policy.settings.ownMost)));
</script>

<svelte:head><title>Retention policy – Kovrel</title></svelte:head>

<article class="bg-sheet border-rule-strong max-w-4xl border p-6 print:border-0 print:p-0">
	<div class="flex items-start justify-between gap-4">
		<div>
			<h1>What happens to mail here</h1>
			<p class="text-ink-soft mt-0.5 text-sm">
				As it is set on {showDate(data.today)}. These sentences are made from the settings, and change with them.
			</p>
		</div>
		<button class="quiet print:hidden" type="button" onclick={() => window.print()}>Print</button>
	</div>
	<ul class="mt-3 flex list-disc flex-col gap-1 pl-5">
		{#each policy.general as sentence (sentence)}<li>{sentence}</li>{/each}
	</ul>
	{#if policy.series.length > 0}
		<h2 class="mt-5 mb-1">The schedule</h2>
		<table class="sheet">
			<thead><tr><th>Series</th><th>Its mail is</th><th>Authority</th><th>Owner</th></tr></thead>
			<tbody>
				{#each policy.series as series (series.id)}
					<tr
						><td><b>{series.code}</b> {series.title}</td><td class="text-sm">{termsWords(series.terms)}</td><td
							class="text-sm">{series.authority}</td
						><td class="text-sm">{series.owner}</td></tr
					>
				{/each}
			</tbody>
		</table>
	{/if}
	{#each policy.mailboxes as { mailbox, sentences, folders } (mailbox)}
		<h2 class="mt-5 mb-1">{mailbox}</h2>
		<p>{sentences.join(' ')}</p>
		{#if folders.length > 0}
			<ul class="mt-1 flex list-disc flex-col gap-0.5 pl-5">
				{#each folders as folder (folder.path)}<li><b>{folder.path}</b>: {folder.sentence}</li>{/each}
			</ul>
		{/if}
	{/each}
	{#if policy.holds.length > 0}
		<h2 class="mt-5 mb-1">Holds</h2>
		<ul class="flex list-disc flex-col gap-0.5 pl-5">
			{#each policy.holds as hold (hold)}<li>{hold}</li>{/each}
		</ul>
	{/if}
</article>

<details class="mt-4 max-w-4xl print:hidden" open={Boolean(answer)}>
	<summary class="cursor-pointer font-semibold">Change what the policy says for the office</summary>
	<Refused message={answer?.message} />
	<form
		method="post"
		action="?/set"
		use:enhance={() =>
			({ update }) =>
				update({ reset: false })}
		class="bg-sheet border-rule-strong mt-1 flex flex-wrap items-end gap-4 border p-3 text-sm"
	>
		<label class="flex flex-col gap-1"
			>Who decides on retention
			<input class="field w-72" name="owner" maxlength="300" value={policy.settings.owner} /></label
		>
		<label class="flex flex-col gap-1"
			>The financial year begins in
			<select class="field" name="firstMonth" value={String(policy.settings.firstMonth)}
				>{#each MONTH_NAMES as month, at (month)}<option value={String(at + 1)}>{month}</option>{/each}</select
			></label
		>
		<label class="flex flex-col gap-1"
			>A certificate keeps of each message
			<select class="field" name="certificateKeeps" value={policy.settings.certificateKeeps}>
				<option value="hash">dates, size and hash alone</option>
				<option value="subject">sender and subject as well</option>
			</select></label
		>
		<input type="hidden" name="ownLeast" value={askedPeriod(least)} />
		<input type="hidden" name="ownMost" value={askedPeriod(most)} />
		<PeriodField label="Single messages: at least" bind:period={least} />
		<PeriodField label="at most" bind:period={most} />
		<button class="act">Set</button>
		{#if answer?.set}<p role="status">It is set.</p>{/if}
	</form>
</details>
