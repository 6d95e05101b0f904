<script lang="ts">
	import Explain from '$lib/components/frames/Explain.svelte';
	import LotsSheet from '$lib/components/sheet/LotsSheet.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';

	let { data } = $props();
</script>

<svelte:head><title>Lots of {data.mailbox.name} – Kovrel</title></svelte:head>

<div class="flex items-center gap-2">
	<h1 class="mb-2">Decide on lots</h1>
	<Explain word="lot" />
</div>
<Refused message={data.refused} />
<LotsSheet
	asked={data.asked}
	first={data.rows ?? { lots: [], offset: 0, total: { lots: 0, messages: 0, bytes: 0 }, heaviest: 0 }}
	partAddress="/m/{data.mailboxId}/clear/lots/part"
	folders={data.folders}
	tags={data.tags}
	series={data.series}
	recent={data.recent}
	ages={data.ages}
/>
