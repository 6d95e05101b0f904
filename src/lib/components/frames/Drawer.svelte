<script lang="ts">
	import XIcon from '@lucide/svelte/icons/x';
	import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
	import type { Snippet } from 'svelte';

	interface Props {
		open: boolean;
		onClose: () => void;
		title: string;
		/** Its width, in CSS. */
		width?: string;
		children: Snippet;
	}
	let { open, onClose, title, width = '46rem', children }: Props = $props();
</script>

<!-- slides in from the right over the sheet; Escape closes it and returns the focus -->
<Dialog
	{open}
	onOpenChange={({ open: now }) => {
		if (!now) onClose();
	}}
>
	<Portal>
		<Dialog.Backdrop class="fixed inset-0 z-40 bg-black/30" />
		<Dialog.Positioner class="fixed inset-0 z-50 flex justify-end">
			<Dialog.Content
				class="bg-paper border-rule-strong flex h-full max-w-full flex-col gap-3 border-l p-5 shadow-xl"
				style="width: {width}"
			>
				<header class="flex items-start justify-between gap-4">
					<Dialog.Title
						class="flex-1 text-lg leading-snug font-semibold"
						dir="auto"
						style="font-family: 'Besley Variable', var(--other-scripts), serif">{title}</Dialog.Title
					>
					<Dialog.CloseTrigger class="quiet shrink-0"
						><XIcon size={16} aria-hidden="true" /> Close <kbd class="text-xs">Esc</kbd></Dialog.CloseTrigger
					>
				</header>
				{@render children()}
			</Dialog.Content>
		</Dialog.Positioner>
	</Portal>
</Dialog>
