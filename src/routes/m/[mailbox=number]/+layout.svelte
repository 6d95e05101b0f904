<script lang="ts">
	import WithSlip from '$lib/components/frames/WithSlip.svelte';
	import { docketSummary } from '$lib/docket-summary.ts';
	import DocketSlip from '$lib/components/docket/DocketSlip.svelte';

	let { data, children } = $props();

	const summary = $derived(docketSummary(data.docket));
	const mailbox = $derived(data.mailboxes.find(({ id }) => id === data.mailboxId));
</script>

<WithSlip {summary}>
	<main class="min-w-0">{@render children()}</main>
	{#snippet slip()}
		{#if mailbox}<DocketSlip
				docket={data.docket}
				certificate={data.certificate}
				server={data.server}
				{mailbox}
				others={data.others}
			/>{/if}
	{/snippet}
</WithSlip>
