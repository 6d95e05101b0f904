<script lang="ts">
	import HelpIcon from '@lucide/svelte/icons/circle-question-mark';
	import { page } from '$app/state';
	import Drawer from '$lib/components/frames/Drawer.svelte';
	import { GLOSSARY, keysOf } from '$lib/help.ts';

	let open = $state(false);

	function onKey(event: KeyboardEvent) {
		if (event.key !== 'F1') return;
		// the browser's own help is not about this page
		event.preventDefault();
		open = !open;
	}
</script>

<svelte:window onkeydown={onKey} />

<button class="quiet" type="button" aria-haspopup="dialog" onclick={() => (open = true)}
	><HelpIcon size={16} aria-hidden="true" /> Help <kbd class="text-xs max-md:hidden">F1</kbd></button
>

<Drawer {open} onClose={() => (open = false)} title="Help" width="34rem">
	{#if open}
		<div class="flex min-h-0 flex-col gap-4 overflow-auto">
			<section aria-labelledby="keys-here">
				<h3 id="keys-here" class="mb-1 font-semibold">Keys on this page</h3>
				<dl class="grid grid-cols-[7rem_1fr] gap-x-3 gap-y-1 text-sm">
					{#each keysOf(page.route.id) as [keys, does] (keys)}
						<dt><kbd>{keys}</kbd></dt>
						<dd>{does}</dd>
					{/each}
				</dl>
			</section>
			<section aria-labelledby="own-words">
				<h3 id="own-words" class="mb-1 font-semibold">Words of Kovrel</h3>
				<dl class="grid grid-cols-[7rem_1fr] gap-x-3 gap-y-1 text-sm">
					{#each GLOSSARY as [word, means] (word)}
						<dt class="font-semibold">{word}</dt>
						<dd>{means}</dd>
					{/each}
				</dl>
			</section>
			{#if page.route.id === '/find' || page.route.id?.endsWith('/archive')}<p class="text-sm">
					<a class="lead" href="/find/help">Search syntax</a>
				</p>{/if}
		</div>
	{/if}
</Drawer>
