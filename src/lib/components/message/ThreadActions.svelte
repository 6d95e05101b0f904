<script lang="ts">
	import { goto } from '$app/navigation';
	import AwaitForm from '$lib/components/message/AwaitForm.svelte';
	import CloseThreadForm from '$lib/components/message/CloseThreadForm.svelte';
	import { fromNowOnHref } from '$lib/from-now-on.ts';

	interface Props {
		mailboxId: number;
		/** The message that is answered. */
		itemId: number;
		/** The messages of its thread that are decided on together. */
		ids: readonly number[];
		isArchived?: boolean;
		folders: readonly string[];
		/** What the standing decision would be about. */
		listId: number | null;
		address: string;
		/** Whether the keys of the desk act here, and are shown. */
		hasKeys?: boolean;
		onSend?: () => () => void;
		onRefused: (message: string) => void;
		onDone?: () => void;
	}
	let {
		mailboxId,
		itemId,
		ids,
		isArchived = false,
		folders,
		listId,
		address,
		hasKeys = false,
		onSend,
		onRefused,
		onDone
	}: Props = $props();

	let unfolded = $state<'await' | 'close'>();
	$effect(() => {
		void itemId;
		unfolded = undefined;
	});
	const write = (as: 'reply' | 'reply-all' | 'forward') => `/m/${mailboxId}/desk/write?as=${as}&item=${itemId}`;
	const fromNowOn = $derived(fromNowOnHref(mailboxId, { listId, address }));
	const sent = {
		onSend: () => {
			const again = onSend?.();
			unfolded = undefined;
			return () => again?.();
		},
		onRefused: (message: string) => onRefused(message),
		onDone: () => onDone?.()
	};

	/** What a key of the desk does here. @returns whether it is one */
	export function pressKey(key: string): boolean {
		if (key === '<') void goto(write('reply'));
		else if (key === '>') void goto(fromNowOn);
		else if (key === '?') unfolded = 'await';
		else return false;
		return true;
	}
	const toggle = (form: 'await' | 'close') => (unfolded = unfolded === form ? undefined : form);
</script>

<a class="quiet text-sm" href={write('reply')}
	>{#if hasKeys}<kbd>&lt;</kbd>{/if} Reply</a
>
<a class="quiet text-sm" href={write('reply-all')}>Reply to all</a>
<a class="quiet text-sm" href={write('forward')}>Forward</a>
<button class="quiet text-sm" type="button" aria-expanded={unfolded === 'await'} onclick={() => toggle('await')}
	>{#if hasKeys}<kbd>?</kbd>{/if} Until it is answered …</button
>
<button class="quiet text-sm" type="button" aria-expanded={unfolded === 'close'} onclick={() => toggle('close')}
	>Close the thread …</button
>
<a class="quiet text-sm" href={fromNowOn}
	>{#if hasKeys}<kbd>&gt;</kbd>{/if} The same from now on …</a
>
{#if unfolded === 'await'}
	<div class="w-full"><AwaitForm {ids} {isArchived} action="/m/{mailboxId}/desk?/await" {...sent} /></div>
{:else if unfolded === 'close'}
	<div class="w-full"><CloseThreadForm {itemId} {folders} action="/m/{mailboxId}/desk?/close" {...sent} /></div>
{/if}
