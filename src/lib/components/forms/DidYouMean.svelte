<script lang="ts">
	/** Corrections of a search that found nothing. */
	let { nearly, onSearch }: { nearly: readonly { query: string }[]; onSearch: (query: string) => void } = $props();
</script>

{#each nearly as { query } (query)}
	<p class="mt-2">
		Did you mean <button class="lead font-semibold" type="button" onclick={() => onSearch(query)}>{query}</button>?
	</p>
{/each}
