<script lang="ts">
	import { page } from '$app/state';
	import MessageSheet from '$lib/components/sheet/MessageSheet.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import type { DecisionResult } from '$lib/server/docket/index.ts';
	import type { MessagesPage } from '$lib/server/web/messages-page.ts';
	import { fromNowOnHref } from '$lib/from-now-on.ts';
	import { type Grouping, GROUPINGS, lotQuery } from '../../../core/lots/lots.ts';
	import { showBytes, showMessages } from '../../../core/weigh/units.ts';

	interface Props {
		by: Grouping;
		lot: { key?: string; label: string; messages: number; bytes: number };
		/** The filters of its sheet, in words. */
		filters: string;
		sheet?: MessagesPage;
		refused?: string;
		/** Address of the sheet of lots that it is on. */
		sheetAddress: string;
		answer: { message?: string; decided?: DecisionResult[] } | null;
	}
	let { by, lot, filters, sheet, refused, sheetAddress, answer }: Props = $props();

	const several = $derived(page.url.searchParams.get('in'));
	const back = $derived(`${sheetAddress}?by=${by}${several ? `&in=${several}` : ''}`);
	const mailboxId = $derived(sheet?.search.mailbox);
	const asked = $derived(
		by === 'list' ? { listId: Number(lot.key ?? '') || undefined } : { query: lotQuery(by, lot.key ?? '', lot.label) }
	);
</script>

<svelte:head><title>{lot.label} – Lots – Kovrel</title></svelte:head>

<nav class="text-sm" aria-label="Where this is">
	<a class="lead" href={back}>Lots by {GROUPINGS[by]}</a>
</nav>
<h1>{lot.label}</h1>
<p class="text-ink-soft mt-1 text-sm">
	{showMessages(lot.messages)} ({showBytes(lot.bytes)}) in folders{filters ? `, ${filters}` : ''}.
	{#if mailboxId !== undefined && (asked.listId || asked.query)}<a class="lead" href={fromNowOnHref(mailboxId, asked)}
			>The same from now on …</a
		>{/if}
</p>
{#if sheet}
	<MessageSheet {sheet} {answer}>
		{#snippet empty()}No message of this lot is left here. <a class="lead" href={back}>Back to the lots</a>{/snippet}
	</MessageSheet>
{:else}<Refused message={refused} />{/if}
