<script lang="ts">
	import ListsSheet from '$lib/components/sheet/ListsSheet.svelte';

	let { data, form } = $props();
</script>

<svelte:head><title>Lists – Kovrel</title></svelte:head>

<ListsSheet
	asked={data.asked}
	newest={data.newest}
	first={data.part}
	partAddress="/m/{data.mailboxId}/lists/part"
	{form}
/>
