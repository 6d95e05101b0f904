<script lang="ts">
	import type { SubmitFunction } from '@sveltejs/kit';
	import { enhance } from '$lib/enhance.ts';
	import { invalidateAll } from '$app/navigation';
	import { refusalOf } from '$lib/sent-form.ts';

	/** The decisions on one list: they go on the docket, where the request to it is shown before it is sent. */
	let { mailboxId, listId }: { mailboxId: number; listId: number } = $props();

	let wrong = $state<string>();
	let said = $state<string>();
	$effect(() => {
		void listId;
		wrong = said = undefined;
	});

	const DECISIONS = [
		['unsubscribe', 'Unsubscribe'],
		['block', 'Block'],
		['digest', 'Fold into the digest']
	] as const;

	const submit: SubmitFunction = ({ formData, submitter }) => {
		const decision = submitter?.getAttribute('value');
		formData.set('wish', JSON.stringify({ decision, ids: [listId], backIssues: 'leave' }));
		return async ({ result }) => {
			wrong = refusalOf(result);
			said = wrong === undefined ? 'It is on the docket. Nothing happens until that is carried out.' : undefined;
			await invalidateAll();
		};
	};
</script>

{#if wrong}<p class="wrong text-sm" role="alert">{wrong}</p>{/if}
<form method="post" action="/m/{mailboxId}/lists?/decide" use:enhance={submit} class="flex flex-wrap gap-1.5">
	{#each DECISIONS as [decision, label] (decision)}
		<button class="quiet px-2! text-sm" name="decision" value={decision}>{label}</button>
	{/each}
</form>
{#if said}<p class="text-sm" role="status">{said}</p>{/if}
