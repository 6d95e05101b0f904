<script lang="ts">
	import DocketSlip from '$lib/components/docket/DocketSlip.svelte';

	let { data, children } = $props();

	const mailbox = $derived(data.mailboxes.find(({ id }) => id === data.mailboxId));
</script>

<div class="grid grid-cols-[minmax(0,1fr)_19rem] gap-5 px-5 py-4">
	<main class="min-w-0">{@render children()}</main>
	{#if mailbox}<DocketSlip
			docket={data.docket}
			certificate={data.certificate}
			server={data.server}
			{mailbox}
			others={data.others}
		/>{/if}
</div>
