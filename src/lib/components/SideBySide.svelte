<script lang="ts">
	import XIcon from '@lucide/svelte/icons/x';
	import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
	import type { ReadableMessage } from '$lib/server/work/read-message.ts';
	import { markCarried } from '../../core/likeness/contains.ts';
	import { showMoment } from '$lib/moments.ts';

	let { pair = $bindable() }: { pair: { earlier: number; later: number } | undefined } = $props();

	let earlier = $state.raw<ReadableMessage>();
	let later = $state.raw<ReadableMessage>();
	let wrong = $state<string>();

	async function read(id: number): Promise<ReadableMessage> {
		const answer = await fetch(`/items/${id}`);
		const body = (await answer.json()) as ReadableMessage & { message?: string };
		if (!answer.ok) throw new Error(body.message ?? 'The message cannot be shown.');
		return body;
	}

	$effect(() => {
		const wanted = pair;
		earlier = later = undefined;
		wrong = undefined;
		if (!wanted) return;
		void Promise.all([read(wanted.earlier), read(wanted.later)]).then(
			([first, second]) => {
				if (pair !== wanted) return;
				earlier = first;
				later = second;
			},
			(error: unknown) => (wrong = error instanceof Error ? error.message : 'The server does not answer.')
		);
	});

	const marked = $derived(earlier && later ? markCarried(earlier.text, later.text) : []);
	const received = (message: ReadableMessage) =>
		message.receivedAt === null ? 'not known' : showMoment(new Date(message.receivedAt * 1000).toISOString());
</script>

<Dialog
	open={pair !== undefined}
	onOpenChange={({ open }) => {
		if (!open) pair = undefined;
	}}
>
	<Portal>
		<Dialog.Backdrop class="fixed inset-0 z-40 bg-black/30" />
		<Dialog.Positioner class="fixed inset-0 z-50 flex items-center justify-center p-6">
			<Dialog.Content
				class="bg-paper border-rule-strong flex h-full w-full max-w-6xl flex-col gap-3 border p-5 shadow-xl"
			>
				<header class="flex items-start justify-between gap-4">
					<Dialog.Title class="text-lg font-semibold" style="font-family: 'Besley Variable', serif"
						>What is proposed, and what carries it</Dialog.Title
					>
					<Dialog.CloseTrigger class="quiet shrink-0"
						><XIcon size={16} aria-hidden="true" /> Close <kbd class="text-xs">Esc</kbd></Dialog.CloseTrigger
					>
				</header>
				{#if wrong}
					<p class="wrong" role="alert">{wrong}</p>
				{:else if !earlier || !later}
					<p role="status">Opening …</p>
				{:else}
					<div class="grid min-h-0 flex-1 grid-cols-2 gap-4">
						{#each [{ title: 'Proposed', message: earlier }, { title: 'Stays', message: later }] as { title, message } (title)}
							<section class="flex min-h-0 flex-col gap-1" aria-label={title}>
								<h3>{title}: {message.subject || '(no subject)'}</h3>
								<p class="text-ink-soft text-sm">
									{message.fromName || message.fromAddress}, {received(message)}, in {message.folder}
								</p>
								<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
								<pre
									class="bg-sheet border-rule min-h-0 flex-1 overflow-auto border p-3 font-sans text-sm whitespace-pre-wrap"
									tabindex="0">{#if title === 'Stays'}{#each marked as part, at (at)}{#if part.carried}<mark
													>{part.text}</mark
												>{:else}{part.text}{/if}{/each}{:else}{message.text || '(no text)'}{/if}</pre>
								{#if message.attachments.length > 0}
									<p class="text-sm">Files: {message.attachments.map(({ name }) => name).join(', ')}</p>
								{/if}
							</section>
						{/each}
					</div>
				{/if}
			</Dialog.Content>
		</Dialog.Positioner>
	</Portal>
</Dialog>
