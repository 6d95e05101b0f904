<script lang="ts">
	import Drawer from '$lib/components/frames/Drawer.svelte';
	import MessageReading from '$lib/components/message/MessageReading.svelte';
	import type { ReadableMessage } from '$lib/server/find/index.ts';
	import type { Snippet } from 'svelte';

	interface Props {
		id: number | undefined;
		actions?: Snippet<[ReadableMessage]>;
		/** Whether this person may mark messages as junk here. */
		marking?: boolean;
		/** Another number reads the message again. */
		version?: number;
	}
	let { id = $bindable(), ...reading }: Props = $props();
	let subject = $state('');
</script>

<Drawer open={id !== undefined} onClose={() => (id = undefined)} title={subject || 'Message'}>
	<MessageReading bind:id bind:subject {...reading} />
</Drawer>
