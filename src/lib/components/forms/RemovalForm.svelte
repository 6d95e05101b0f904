<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import { refusalOf } from '$lib/sent-form.ts';
	import Refused from './Refused.svelte';

	interface Props {
		action: string;
		/** What the button says: "Remove the class". */
		words: string;
		/** What is removed, as the fields of the form. */
		fields: Record<string, string>;
		onRemoved: () => void;
	}
	let { action, words, fields, onRemoved }: Props = $props();

	let isAsking = $state(false);
	let refused = $state<string>();
</script>

{#if isAsking}
	<form
		method="post"
		{action}
		use:enhance={() =>
			async ({ result, update }) => {
				// closed first: what it shows is gone with the thing removed
				if (result.type === 'success') onRemoved();
				else refused = refusalOf(result);
				await update({ reset: false });
			}}
		class="flex items-end gap-2"
	>
		{#each Object.entries(fields) as [name, value] (name)}<input type="hidden" {name} {value} />{/each}
		<label class="flex flex-col gap-1 text-sm"
			>Reason for removing it <input class="field w-72" name="because" required maxlength="1000" /></label
		>
		<button class="act">{words}</button>
	</form>
	<Refused message={refused} />
{:else}
	<button class="quiet self-start text-sm" type="button" onclick={() => (isAsking = true)}>{words} …</button>
{/if}
