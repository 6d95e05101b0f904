<script lang="ts">
	import DailyRound from '$lib/components/desk/DailyRound.svelte';

	let { data, form } = $props();
</script>

<svelte:head><title>Desk – {data.desk.mailboxes[0]?.name} – Kovrel</title></svelte:head>

<DailyRound {data} {form} />
