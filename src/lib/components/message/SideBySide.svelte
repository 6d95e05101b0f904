<script lang="ts">
	import XIcon from '@lucide/svelte/icons/x';
	import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
	import type { ReadableMessage } from '$lib/server/find/index.ts';
	import { markCarried } from '../../../core/likeness/contains.ts';
	import { showMoment } from '$lib/moments.ts';

	interface Props {
		pair: { earlier: number; later: number } | undefined;
		/** Only the proposed message's quotes stand in the other one. */
		quotesOnly?: boolean;
	}
	let { pair = $bindable(), quotesOnly = false }: Props = $props();

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

	/* The later text that contains the earlier one; else the text for reading. */
	const marked = $derived.by(() => {
		if (!earlier || !later) return [];
		const [first, second] = [earlier, later];
		const pairs = [first.text, first.moreText].flatMap((text) =>
			[second.text, second.moreText].flatMap((other) => (text && other ? [markCarried(text, other)] : []))
		);
		return pairs.find((pieces) => pieces.some(({ carried }) => carried)) ?? markCarried(first.text, second.text);
	});
	const stretches = $derived(marked.filter(({ carried }) => carried).length);
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
					<Dialog.Title
						class="text-lg font-semibold"
						style="font-family: 'Besley Variable', var(--other-scripts), serif"
						>Proposed message, and the message that carries it</Dialog.Title
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
					<div class="grid min-h-0 flex-1 gap-4 md:grid-cols-2">
						{#each [{ title: 'Proposed', message: earlier }, { title: 'Stays', message: later }] as { title, message } (title)}
							<section class="flex min-h-0 flex-col gap-1" aria-label={title}>
								<h3>{title}: {message.subject || '(no subject)'}</h3>
								{#if title === 'Stays'}
									<p class="text-sm" data-testid="carried">
										{quotesOnly
											? 'The proposed message is one line of thanks; what it quotes stands in this one.'
											: stretches === 0
												? 'The proposed message does not stand in this text: open both before you decide.'
												: stretches === 1
													? 'The marked part is the whole proposed message.'
													: `The ${stretches} marked parts are the whole proposed message; answers are written between them.`}
									</p>
								{/if}
								<p class="text-ink-soft text-sm">
									{message.fromName || message.fromAddress}, {received(message)}, in {message.folder}
								</p>
								<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
								<pre
									class="bg-sheet border-rule min-h-0 flex-1 overflow-auto border p-3 font-[inherit] text-sm whitespace-pre-wrap"
									tabindex="0">{#if title === 'Stays'}{#each marked as part, at (at)}{#if part.carried}<mark
													>{part.text}</mark
												>{:else}{part.text}{/if}{/each}{:else}{message.text ||
											'(no text)'}{#if message.moreText}{`\n\n— In its HTML —\n${message.moreText}`}{/if}{/if}</pre>
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
