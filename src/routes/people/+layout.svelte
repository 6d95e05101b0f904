<script lang="ts">
	import StepNav from '$lib/components/frames/StepNav.svelte';

	let { data, children } = $props();

	const steps = $derived([
		{ name: 'People and grants', href: '/people' },
		...(data.person?.role === 'administrator'
			? [{ name: 'Requests', href: '/people/requests', waits: data.requests > 0 ? String(data.requests) : '' }]
			: [])
	]);
</script>

<main class="px-3 sm:px-5 py-4">
	<StepNav label="People" {steps} />
	{@render children()}
</main>
