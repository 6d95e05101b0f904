<script lang="ts">
	import { page } from '$app/state';
	import DraftsTogether from '$lib/components/docket/DraftsTogether.svelte';
	import MailboxPicker from '$lib/components/frames/MailboxPicker.svelte';

	let { data, children } = $props();

	const isAdministrator = $derived(data.person?.role === 'administrator');
	/* The comparison needs the whole width; its drafts stand above it. */
	const isWide = $derived(page.url.pathname === '/weigh');
</script>

<div class="px-5 py-4" class:beside={!isWide}>
	<main class="min-w-0">
		{#if isAdministrator}
			<div class="mb-3 flex flex-wrap items-center gap-x-4 gap-y-1 text-sm">
				<MailboxPicker selected={data.selected} />
				{#if isWide && data.drafts.length > 0}
					<a class="lead" href="/clear{page.url.search}"
						>{data.drafts.length === 1 ? '1 draft docket waits' : `${data.drafts.length} draft dockets wait`}</a
					>
				{/if}
			</div>
		{/if}
		{@render children()}
	</main>
	{#if !isWide}<DraftsTogether drafts={data.drafts} />{/if}
</div>

<style>
	.beside {
		display: grid;
		grid-template-columns: minmax(0, 1fr) 19rem;
		gap: 1.25rem;
	}
	@media (width < 900px) {
		.beside {
			display: block;
		}
	}
</style>
