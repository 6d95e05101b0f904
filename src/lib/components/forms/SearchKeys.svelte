<script lang="ts">
	import { SEARCH_KEYS } from '$lib/search-keys.ts';
</script>

<table class="sheet mt-2">
	<thead><tr><th>Write</th><th>To find</th></tr></thead>
	<tbody>
		{#each SEARCH_KEYS as [written, found] (written)}<tr><td><code>{written}</code></td><td>{found}</td></tr>{/each}
	</tbody>
</table>
