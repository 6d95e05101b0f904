<script lang="ts">
	import DateField from '$lib/components/forms/DateField.svelte';
	import { enhance } from '$lib/enhance.ts';
	import { page } from '$app/state';
	import { sendAhead, type Sending } from '$lib/sent-form.ts';

	interface Props extends Sending {
		/** A message of the thread. */
		itemId: number;
		folders: readonly string[];
		/** Where it is posted. */
		action: string;
	}
	let { itemId, folders, action, ...sending }: Props = $props();
	const id = $props.id();

	let then = $state<'archive' | 'delete' | 'move'>('archive');
	let folder = $state('');
	let until = $state('');
	const wish = $derived(
		JSON.stringify({
			itemId,
			then,
			...(then === 'move' ? { folder: folder.trim() } : {}),
			...(until ? { until } : {})
		})
	);
</script>

<form
	method="post"
	{action}
	use:enhance={sendAhead(sending)}
	class="bg-docket flex flex-wrap items-end gap-3 p-2 text-sm"
	aria-label="Close the thread"
>
	<input type="hidden" name="wish" value={wish} />
	<label class="flex items-center gap-2"
		>Move the thread, and its later mail, to
		<select class="field" bind:value={then}>
			<option value="archive">the archive</option>
			<option value="delete">the bin</option>
			<option value="move">a folder</option>
		</select></label
	>
	{#if then === 'move'}<label class="flex items-center gap-2"
			>named <input class="field w-48" list="{id}-folders" bind:value={folder} maxlength="2000" required /></label
		>
		<datalist id="{id}-folders"
			>{#each folders as name (name)}<option value={name}></option>{/each}</datalist
		>{/if}
	<label class="flex items-center gap-2"
		>until <DateField bind:value={until} min={page.data.today} /> (empty: for good)</label
	>
	<button class="act">Close the thread</button>
	<p class="text-ink-soft w-full text-xs">
		Later mail follows each night, by a standing decision that you can switch off and take back.
	</p>
</form>
