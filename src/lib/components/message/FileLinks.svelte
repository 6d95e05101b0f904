<script lang="ts">
	import PaperclipIcon from '@lucide/svelte/icons/paperclip';
	import { showCount } from '../../../core/weigh/units.ts';

	interface Props {
		/** Number of the message. */
		id: number;
		files: { index: number; name: string }[];
		/** Opens the message, if it has more files than are shown. */
		onMore: () => void;
	}
	let { id, files, onMore }: Props = $props();

	const SHOWN = 3;
</script>

{#if files.length > 0}
	<span class="flex flex-wrap gap-x-3 text-sm">
		{#each files.slice(0, SHOWN) as file (file.index)}
			<a
				class="lead inline-flex min-h-[24px] max-w-60 items-center gap-1"
				href="/items/{id}/attachments/{file.index}"
				download
				title="Download {file.name}"
				><PaperclipIcon size={12} class="shrink-0 self-center" aria-hidden="true" /><span class="truncate"
					>{file.name}</span
				></a
			>
		{/each}
		{#if files.length > SHOWN}<button class="lead" type="button" tabindex="-1" onclick={onMore}
				>and {showCount(files.length - SHOWN)} more</button
			>{/if}
	</span>
{/if}
