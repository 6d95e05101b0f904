<script lang="ts">
	import StepNav from '$lib/components/frames/StepNav.svelte';

	let { data, children } = $props();

	const base = $derived(`/m/${data.mailboxId}/lists`);
	const steps = $derived([
		{ name: 'Lists', href: base },
		{ name: 'Trusted and blocked', href: `${base}/senders` },
		{ name: 'Digest', href: `${base}/digest` },
		{ name: 'Mail since unsubscribing', href: `${base}/since` }
	]);
</script>

<StepNav label="Ways to stop the inflow" {steps} />
{@render children()}
