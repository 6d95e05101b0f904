<script lang="ts">
	import MessageSheet from '$lib/components/sheet/MessageSheet.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import type { MessagesPage } from '$lib/server/web/messages-page.ts';
	import { showDate, showMonth } from '../../../core/calendar.ts';
	import { ACTION_WORDS } from '../../../core/retention/sentences.ts';

	let { data, form } = $props();

	const isMonth = $derived(data.date.length === 7);
	const isNow = $derived(!isMonth && data.date <= data.today);
	const when = $derived(isNow ? 'now' : isMonth ? `in ${showMonth(data.date)}` : `on ${showDate(data.date)}`);
	/* Mail whose period has ended may be destroyed without the bin, unless it is to be archived. */
	const also = $derived(isNow && data.action !== 'archive' ? (['dispose'] as const) : []);
</script>

{#snippet due(hit: MessagesPage['hits'][number])}
	<span class="whitespace-nowrap">{hit.dueOn ? showDate(hit.dueOn) : ''}</span>
{/snippet}

<svelte:head><title>Due {when} – Kovrel</title></svelte:head>

<nav class="mt-2 text-sm" aria-label="Where this is"><a class="lead" href="/retain">Due</a></nav>
<h1>Due {when}: {ACTION_WORDS[data.action]}{data.line ? `, ${data.line.folder}` : ''}</h1>
<p class="text-ink-soft mt-1 text-sm">
	{#if data.line}{data.line.mailbox}. {data.line.series
			? `Under series ${data.line.series}.`
			: `Period: ${data.line.terms}.`}{/if}
	A decision made here comes before the scheduled run.
</p>
{#if data.sheet}
	<MessageSheet sheet={data.sheet} column={{ title: 'Due', key: 'due', cell: due }} {also} answer={form}>
		{#snippet empty()}Nothing of this is due any more. <a class="lead" href="/retain">Mail that is due</a>{/snippet}
	</MessageSheet>
{:else}<Refused message={data.refused} />{/if}
