<script lang="ts">
	import DailyRound from '$lib/components/desk/DailyRound.svelte';

	let { data, form } = $props();
</script>

<svelte:head><title>Desk of several mailboxes – Kovrel</title></svelte:head>

<DailyRound {data} {form} />
