<script lang="ts">
	import { page } from '$app/state';

	let { label, steps }: { label: string; steps: { name: string; href: string; search?: string; waits?: string }[] } =
		$props();
</script>

<nav aria-label={label} class="mb-3 flex flex-wrap gap-x-4 gap-y-1 text-sm">
	{#each steps as { name, href, search = '', waits } (href)}
		<a href="{href}{search}" class="step" aria-current={page.url.pathname === href ? 'page' : undefined}
			>{name}{#if waits}<span class="ml-1 font-normal">({waits})</span>{/if}</a
		>
	{/each}
</nav>

<style>
	.step {
		padding: 1px 0;
		border-bottom: 2px solid transparent;
		color: var(--ink-soft);
	}
	.step:hover {
		color: var(--stamp);
	}
	.step[aria-current='page'] {
		color: var(--ink);
		font-weight: 600;
		border-bottom-color: var(--stamp);
	}
</style>
