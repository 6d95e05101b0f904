<script lang="ts">
	import { Portal, Tooltip } from '@skeletonlabs/skeleton-svelte';
	import { meaningOf } from '$lib/help.ts';

	/* Explains one of Kovrel's own words where it stands, on hover and focus. */
	let { word }: { word: string } = $props();
</script>

<Tooltip openDelay={200} interactive>
	<Tooltip.Trigger
		class="border-rule-strong text-ink-soft inline-grid size-6 shrink-0 place-content-center self-center rounded-full border text-xs font-semibold"
		aria-label="What “{word}” means">?</Tooltip.Trigger
	>
	<Portal>
		<Tooltip.Positioner class="z-50!">
			<Tooltip.Content class="bg-sheet border-rule-strong max-w-72 border p-3 text-sm shadow-lg">
				<b>{word}</b>: {meaningOf(word)}.
			</Tooltip.Content>
		</Tooltip.Positioner>
	</Portal>
</Tooltip>
