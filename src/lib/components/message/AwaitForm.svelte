<script lang="ts">
	import DateField from '$lib/components/forms/DateField.svelte';
	import { enhance } from '$lib/enhance.ts';
	import { page } from '$app/state';
	import { sendAhead, type Sending } from '$lib/sent-form.ts';

	interface Props extends Sending {
		/** The messages of the thread. */
		ids: readonly number[];
		/** Where it is posted. */
		action: string;
		/** Whether it is archived already. */
		isArchived?: boolean;
	}
	let { ids, action, isArchived = false, ...sending }: Props = $props();

	let because = $state('');
	let until = $state('');
	const wish = $derived(
		JSON.stringify({
			ids,
			...(because.trim() ? { because: because.trim() } : {}),
			...(until ? { until } : {})
		})
	);
</script>

<form
	method="post"
	{action}
	use:enhance={sendAhead(sending)}
	class="bg-docket flex flex-wrap items-end gap-3 p-2 text-sm"
	aria-label="Until it is answered"
>
	<input type="hidden" name="wish" value={wish} />
	<label class="flex items-center gap-2"
		>awaited because <input
			class="field w-56"
			bind:value={because}
			maxlength="500"
			placeholder="the offer is due"
		/></label
	>
	<label class="flex items-center gap-2"
		>returns without an answer on <DateField bind:value={until} min={page.data.today} /></label
	>
	<button class="act" disabled={ids.length === 0}
		>{isArchived ? 'Bring it back when it is answered' : 'Archive until it is answered'}</button
	>
</form>
