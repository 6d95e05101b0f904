<script lang="ts">
	import { page } from '$app/state';
	import DraftsTogether from '$lib/components/docket/DraftsTogether.svelte';
	import WithSlip from '$lib/components/frames/WithSlip.svelte';
	import MailboxPicker from '$lib/components/frames/MailboxPicker.svelte';

	let { data, children } = $props();

	const isAdministrator = $derived(data.person?.role === 'administrator');
	/* The comparison needs the whole width; its drafts stand above it. */
	const isWide = $derived(page.url.pathname === '/weigh');
</script>

{#snippet work()}
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
{/snippet}

{#if isWide}
	<div class="px-3 py-4 sm:px-5">{@render work()}</div>
{:else}
	<WithSlip
		summary={data.drafts.length === 1 ? '1 draft docket' : `${data.drafts.length} draft dockets`}
		children={work}
	>
		{#snippet slip()}<DraftsTogether drafts={data.drafts} />{/snippet}
	</WithSlip>
{/if}
