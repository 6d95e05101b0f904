<script lang="ts">
	import { showBytes } from '../../../core/weigh/units.ts';

	let { bytes, quota, after }: { bytes: number; quota: number | undefined; after?: number | undefined } = $props();

	const scale = $derived(Math.max(bytes, quota ?? 0, 1));
	const over = $derived(quota !== undefined && bytes > quota);
	const width = (value: number) => `${Math.min(100, (100 * value) / scale)}%`;
</script>

<!-- before and, if something is about to happen, after; the stroke is the quota -->
<div
	class="bar"
	role="img"
	aria-label="{showBytes(bytes)}{quota === undefined ? '' : ` of a quota of ${showBytes(quota)}`}{after === undefined
		? ''
		: `, afterwards ${showBytes(after)}`}"
>
	<div class="weight amount" class:over class:ghost={after !== undefined} style:width={width(bytes)}></div>
	{#if after !== undefined}<div
			class="weight amount"
			class:over={quota !== undefined && after > quota}
			style:width={width(after)}
		></div>{/if}
	{#if quota !== undefined}<div class="quota amount" style:left={width(quota)}></div>{/if}
</div>

<style>
	.bar {
		position: relative;
		height: 10px;
		background: var(--sheet);
		border: 1px solid var(--rule-strong);
	}
	.weight {
		position: absolute;
		inset: 0 auto 0 0;
		background: var(--bar);
	}
	.weight.over {
		background: var(--wax);
	}
	.weight.ghost {
		opacity: 0.35;
	}
	.quota {
		position: absolute;
		top: -4px;
		bottom: -4px;
		width: 2px;
		margin-left: -1px;
		background: var(--ink);
	}
</style>
