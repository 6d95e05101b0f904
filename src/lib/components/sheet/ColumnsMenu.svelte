<script lang="ts">
	import { type Column, COLUMNS, type HiddenColumns } from '$lib/hidden-columns.svelte.ts';

	let { columns }: { columns: HiddenColumns } = $props();

	const columnsOf = Object.entries(COLUMNS) as [Column, string][];
</script>

<details class="relative">
	<summary class="quiet cursor-pointer text-sm">Columns</summary>
	<div
		class="bg-sheet border-rule-strong absolute right-0 z-20 mt-1 flex w-40 flex-col gap-2 border p-2 text-sm shadow-lg"
	>
		{#each columnsOf as [column, name] (column)}
			<label class="flex items-center gap-2"
				><input type="checkbox" checked={columns.shows(column)} onchange={() => columns.toggle(column)} />{name}</label
			>
		{/each}
	</div>
</details>
