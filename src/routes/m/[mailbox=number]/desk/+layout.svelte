<script lang="ts">
	import StepNav from '$lib/components/frames/StepNav.svelte';

	let { data, children } = $props();

	const base = $derived(`/m/${data.mailboxId}/desk`);
	const steps = $derived([
		{ name: 'Daily round', href: base },
		{ name: 'Piles', href: `${base}/piles` },
		{ name: 'Awaited', href: `${base}/awaited` },
		{ name: 'Outgoing', href: `${base}/outgoing` },
		{ name: 'Standing decisions', href: `${base}/rules` }
	]);
</script>

<StepNav label="Desk" {steps} />
{@render children()}
