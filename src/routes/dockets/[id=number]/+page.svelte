<script lang="ts">
	import DocketFolders from '$lib/components/DocketFolders.svelte';
	import DocketSlip from '$lib/components/DocketSlip.svelte';

	let { data } = $props();

	const mailbox = $derived(data.mailboxes.find(({ id }) => id === data.docket.mailboxId));
</script>

<svelte:head><title>Docket {data.docket.id} – Kovrel</title></svelte:head>

<div class="grid grid-cols-[minmax(0,1fr)_19rem] gap-5 px-5 py-4">
	<main class="min-w-0">
		<h1 class="mb-3">Docket {data.docket.id} for {data.docket.mailbox}</h1>
		<DocketFolders docket={data.docket} />
	</main>
	{#if mailbox}<DocketSlip docket={data.docket} {mailbox} />{/if}
</div>
