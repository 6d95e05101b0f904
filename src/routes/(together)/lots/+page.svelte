<script lang="ts">
	import LotsSheet from '$lib/components/sheet/LotsSheet.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showMessages } from '../../../core/weigh/units.ts';

	let { data, form } = $props();

	const answer = $derived(form as { decided?: { mailbox: string; id: number; messages: number }[] } | null);
</script>

<svelte:head><title>Lots of several mailboxes – Kovrel</title></svelte:head>

<h1 class="mb-2">Decide on lots over several mailboxes</h1>
<Refused message={data.refused} />
{#if answer?.decided}
	<p role="status" class="mb-2">
		On the docket of each mailbox:
		{#each answer.decided as { mailbox, id, messages }, at (id)}{at > 0 ? ', ' : ''}<a class="lead" href="/dockets/{id}"
				>{mailbox}</a
			>
			({showMessages(messages)} in all){/each}. Nothing happens until they are carried out.
	</p>
{/if}
<LotsSheet
	asked={data.asked}
	first={data.rows ?? { lots: [], offset: 0, total: { lots: 0, messages: 0, bytes: 0 }, heaviest: 0 }}
	partAddress="/lots/part"
	folders={[]}
	tags={data.tags}
	series={data.series}
	recent={data.recent}
	ages={data.ages}
/>
