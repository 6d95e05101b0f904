<script lang="ts">
	import type { Snippet } from 'svelte';

	/* The card of a page before sign-in. */
	let { title, children }: { title: string; children: Snippet } = $props();
</script>

<svelte:head><title>{title} – Kovrel</title></svelte:head>
<main class="flex min-h-screen flex-col items-center px-3 sm:px-5 pt-[12vh]">
	<div class="bg-sheet border-rule-strong entry w-full max-w-md border p-7 shadow-sm">
		<p class="mb-4 text-2xl font-bold tracking-tight" style:font-family="'Besley Variable', serif">Kovrel</p>
		<h1 class="mb-3">{title}</h1>
		{@render children()}
	</div>
</main>

<style>
	.entry {
		border-top: 4px solid var(--stamp);
	}
</style>
