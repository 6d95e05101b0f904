<script lang="ts">
	import { showShare } from '../../../core/weigh/units.ts';

	/** `strong`: a possible action, not a state. */
	let { bytes, whole, strong = false }: { bytes: number; whole: number; strong?: boolean } = $props();

	const width = $derived(Math.min(100, Math.max(0.5, (100 * bytes) / Math.max(1, whole))));
</script>

<!-- the number beside it is for screen readers -->
<div
	class="amount h-2.5"
	style:background={strong ? 'var(--stamp)' : 'var(--bar)'}
	style:width="{width}%"
	title={showShare(bytes, whole)}
></div>
