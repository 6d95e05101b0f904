<script lang="ts">
	import type { Policy } from '$lib/server/retention/index.ts';
	import { type CalendarDate, showDate } from '../../../core/calendar.ts';
	import { termsWords } from '../../../core/retention/sentences.ts';

	/* The retention policy as sentences made from the settings. */
	let { policy, today }: { policy: Policy; today: CalendarDate } = $props();
</script>

<article class="bg-sheet border-rule-strong max-w-4xl border p-6 print:border-0 print:p-0">
	<div class="flex items-start justify-between gap-4">
		<div>
			<h1>What happens to mail here</h1>
			<p class="text-ink-soft mt-0.5 text-sm">
				As set on {showDate(today)}. Kovrel writes these sentences from the settings.
			</p>
		</div>
		<button class="quiet print:hidden" type="button" onclick={() => window.print()}>Print</button>
	</div>
	<ul class="mt-3 flex list-disc flex-col gap-1 pl-5">
		{#each policy.general as sentence, at (at)}<li>{sentence}</li>{/each}
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
