<script lang="ts">
	import { page } from '$app/state';

	/** Links to the previous and next page; empty for a single page. */
	let { at, pages }: { at: number; pages: number } = $props();

	function hrefOf(to: number): string {
		const address = new URL(page.url);
		address.searchParams.set('page', String(to));
		return address.pathname + address.search;
	}
</script>

{#if pages > 1}
	<nav class="mt-3 flex gap-3" aria-label="Pages">
		{#if at > 1}<a class="quiet" href={hrefOf(at - 1)}>Previous page</a>{/if}
		{#if at < pages}<a class="quiet" href={hrefOf(at + 1)}>Next page</a>{/if}
	</nav>
{/if}
