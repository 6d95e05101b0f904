<script lang="ts">
	import StepNav from '$lib/components/frames/StepNav.svelte';

	let { data, children } = $props();

	const base = $derived(`/m/${data.mailboxId}/clear`);
	const steps = $derived([
		{ name: 'Old mail', href: base },
		{ name: 'Lots', href: `${base}/lots` },
		{ name: 'Proposals', href: `${base}/proposals` },
		{ name: 'Keep-list', href: `${base}/keep-list` },
		{ name: 'Folders', href: `${base}/folders` },
		{ name: 'Tags', href: `${base}/tags` },
		{ name: 'Bin', href: `${base}/bin` }
	]);
</script>

<StepNav label="Ways to clear" {steps} />
{@render children()}
