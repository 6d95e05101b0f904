<script lang="ts">
	import ListsSheet from '$lib/components/sheet/ListsSheet.svelte';

	let { data, form } = $props();
</script>

<svelte:head><title>Lists of several mailboxes – Kovrel</title></svelte:head>

<ListsSheet asked={data.asked} newest={data.newest} first={data.part} partAddress="/lists/part" isSeveral {form} />
