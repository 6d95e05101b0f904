<script lang="ts">
	import PolicySheet from '$lib/components/forms/PolicySheet.svelte';

	let { data } = $props();
</script>

<svelte:head><title>Retention policy – Kovrel</title></svelte:head>
<main class="px-3 sm:px-5 py-4">
	<p class="mb-3 print:hidden"><a class="lead" href="/own">Back to my mailbox</a></p>
	<PolicySheet policy={data.policy} today={data.today} />
</main>
