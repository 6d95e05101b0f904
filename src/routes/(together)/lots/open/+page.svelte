<script lang="ts">
	import LotPage from '$lib/components/sheet/LotPage.svelte';

	let { data, form } = $props();
</script>

<LotPage {...data} sheetAddress="/lots" answer={form} />
