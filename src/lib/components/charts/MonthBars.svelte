<script lang="ts">
	import { showCount } from '../../../core/weigh/units.ts';

	/** Twelve months, the present one last. */
	let { months }: { months: readonly number[] } = $props();

	const most = $derived(Math.max(1, ...months));
	const sum = $derived(months.reduce((total, count) => total + count, 0));
</script>

<svg
	class="h-4 w-16 shrink-0"
	viewBox="0 0 60 16"
	role="img"
	aria-label="{showCount(sum)} in the last twelve months, {showCount(months.at(-1) ?? 0)} of them in this one"
>
	<line x1="0" x2="60" y1="15.5" y2="15.5" stroke="var(--rule-strong)" />
	{#each months as count, at (at)}
		{#if count > 0}
			{@const height = Math.max(1.5, (14 * count) / most)}
			<rect class="amount" x={at * 5 + 0.5} y={15 - height} width="4" {height} fill="var(--bar)" />
		{/if}
	{/each}
</svg>
