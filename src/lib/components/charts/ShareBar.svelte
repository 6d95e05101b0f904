<script lang="ts">
	import { showShare } from '../../../core/weigh/units.ts';

	/** `strong`: what can be done, rather than what is there. */
	let { bytes, whole, strong = false }: { bytes: number; whole: number; strong?: boolean } = $props();

	const width = $derived(Math.min(100, Math.max(0.5, (100 * bytes) / Math.max(1, whole))));
</script>

<!-- the number stands beside it: the bar is for the eye alone -->
<div
	class="h-2.5"
	style:background={strong ? 'var(--stamp)' : 'var(--bar)'}
	style:width="{width}%"
	title={showShare(bytes, whole)}
></div>
