<script lang="ts">
	import { page } from '$app/state';

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

<nav aria-label="Ways to clear" class="mb-3 flex flex-wrap gap-x-4 gap-y-1 text-sm">
	{#each steps as { name, href } (href)}
		<a {href} class="step" aria-current={page.url.pathname === href ? 'page' : undefined}>{name}</a>
	{/each}
</nav>
{@render children()}

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
