<script lang="ts">
	import ReadingAgain from '$lib/components/frames/ReadingAgain.svelte';
	import type { Snippet } from 'svelte';
	import { page } from '$app/state';
	import type { LayoutServerData } from '../../../routes/$types';
	import PersonMenu from './PersonMenu.svelte';
	import SkipLink from './SkipLink.svelte';

	/* The frame for colleagues: one page to search, and their own pages. */
	let { data, children }: { data: LayoutServerData; children: Snippet } = $props();
	const { person, answers } = $derived(data);

	const PLACES = [
		['Find', '/find'],
		['My mailbox', '/own'],
		['My requests', '/find/requests']
	] as const;
	const here = $derived(
		[...PLACES].sort((a, b) => b[1].length - a[1].length).find(([, href]) => page.url.pathname.startsWith(href))?.[1]
	);
</script>

<SkipLink />
<div class="flex min-h-screen flex-col">
	<header class="border-rule-strong flex flex-wrap items-center gap-x-6 gap-y-2 border-b px-3 py-3 sm:px-5">
		<a href="/find" class="font-heading text-xl font-bold tracking-tight" style:font-family="'Besley Variable', serif"
			>Kovrel</a
		>
		<nav aria-label="Places" class="flex flex-wrap gap-x-5 gap-y-1">
			{#each PLACES as [name, href] (href)}
				<a {href} class="place" aria-current={here === href ? 'page' : undefined}
					>{name}{#if href === '/find/requests' && answers > 0}<span class="text-stamp ml-1 text-sm">{answers} new</span
						>{/if}</a
				>
			{/each}
		</nav>
		<div class="ml-auto flex flex-wrap items-center justify-end gap-3">
			{#if person}<PersonMenu {person} />{/if}
		</div>
	</header>
	<ReadingAgain isOn={page.data.rereading === true} />
	<div id="work" class="flex-1">{@render children()}</div>
</div>

<style>
	.place {
		padding: 2px 0;
		border-bottom: 2px solid transparent;
		font-weight: 600;
	}
	.place:hover {
		color: var(--stamp);
	}
	.place[aria-current='page'] {
		border-bottom-color: var(--stamp);
	}
</style>
