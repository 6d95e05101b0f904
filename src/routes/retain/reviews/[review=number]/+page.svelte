<script lang="ts">
	import MessageSheet from '$lib/components/sheet/MessageSheet.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import type { MessagesPage } from '$lib/server/web/messages-page.ts';
	import { showDate } from '../../../../core/calendar.ts';

	let { data, form } = $props();
</script>

{#snippet due(hit: MessagesPage['hits'][number])}
	<span class="whitespace-nowrap">{hit.dueOn ? showDate(hit.dueOn) : ''}</span>
{/snippet}

<svelte:head><title>Review of {data.review.mailbox} – Kovrel</title></svelte:head>

<nav class="mt-2 text-sm" aria-label="Where this is"><a class="lead" href="/retain/reviews">Reviews</a></nav>
<h1>Review of {data.review.mailbox}</h1>
<p class="text-ink-soft mt-1 text-sm">
	{data.review.owner}, by {showDate(data.review.until)}: {data.review.because}
</p>
{#if data.sheet}
	<MessageSheet sheet={data.sheet} column={{ title: 'Due', key: 'due', cell: due }} answer={form}>
		{#snippet empty()}Nothing of this review matches.{/snippet}
	</MessageSheet>
{:else}<Refused message={data.refused} />{/if}
