<script lang="ts">
	import type { LineView } from '$lib/server/docket/index.ts';
	import type { ItemRow } from '$lib/server/mail/index.ts';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import MessageTable from '$lib/components/sheet/MessageTable.svelte';
	import { showCount } from '../../../core/weigh/units.ts';

	let { docketId, line }: { docketId: number; line: LineView } = $props();

	let items = $state.raw<ItemRow[]>([]);
	let total = $state(0);
	let loading = $state(false);
	let wrong = $state<string>();
	let reading = $state<number>();

	async function more() {
		loading = true;
		wrong = undefined;
		try {
			const answer = await fetch(`/dockets/${docketId}/lines/${line.id}?offset=${items.length}`);
			const body = (await answer.json()) as { items: ItemRow[]; total: number; message?: string };
			if (!answer.ok) throw new Error(body.message);
			items = [...items, ...body.items];
			total = body.total;
		} catch (error) {
			wrong = error instanceof Error && error.message ? error.message : 'The server does not answer.';
		} finally {
			loading = false;
		}
	}
</script>

<details
	class="mt-2"
	ontoggle={(event) => {
		if (event.currentTarget.open && items.length === 0) void more();
	}}
>
	<summary class="cursor-pointer"><b>Line {line.position}, message by message:</b> {line.sentence}</summary>
	{#if wrong}<p class="wrong mt-1" role="alert">{wrong}</p>{/if}
	{#if items.length > 0}
		<div class="mt-1"><MessageTable {items} onOpen={(id) => (reading = id)} /></div>
	{/if}
	{#if loading}<p role="status" class="p-1">Listing …</p>{/if}
	{#if items.length < total && !loading}
		<button class="quiet mt-2" type="button" onclick={more}>Show more of {showCount(total)}</button>
	{/if}
</details>
<MessageDrawer bind:id={reading} />
