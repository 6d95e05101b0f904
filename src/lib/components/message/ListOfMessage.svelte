<script lang="ts">
	import type { SubmitFunction } from '@sveltejs/kit';
	import { enhance } from '$app/forms';
	import { invalidateAll } from '$app/navigation';
	import type { ListInFull } from '$lib/server/lists/index.ts';
	import { refusalOf } from '$lib/sent-form.ts';
	import { showCount } from '../../../core/weigh/units.ts';

	/** The list that a message is from, with Kovrel's advice and the decisions on it. */
	let { mailboxId, listId }: { mailboxId: number; listId: number } = $props();

	let shown = $state.raw<ListInFull>();
	let wrong = $state<string>();
	let said = $state<string>();

	$effect(() => {
		const wanted = listId;
		shown = undefined;
		wrong = said = undefined;
		void fetch(`/m/${mailboxId}/lists/${wanted}`)
			.then(async (answer) => {
				const body = (await answer.json()) as ListInFull & { message?: string };
				if (wanted !== listId) return;
				if (answer.ok) shown = body;
				else wrong = body.message ?? 'The list cannot be shown.';
			})
			.catch(() => (wrong = 'The server does not answer.'));
	});

	const DECISIONS = [
		['unsubscribe', 'Unsubscribe'],
		['block', 'Block'],
		['digest', 'Fold into the digest']
	] as const;

	/* What a list is asked is shown on the docket before it is sent. */
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
{#if shown}
	<section class="border-rule flex flex-col gap-1 border-t pt-1 text-sm" aria-label="List">
		<p>
			From the list <b>{shown.list.name}</b>, {showCount(shown.list.messages)} messages here. {shown.advice}
		</p>
		<form method="post" action="/m/{mailboxId}/lists?/decide" use:enhance={submit} class="flex flex-wrap gap-1.5">
			{#each DECISIONS as [decision, label] (decision)}
				<button class="quiet px-2! text-sm" name="decision" value={decision}>{label}</button>
			{/each}
			<a
				class="quiet px-2! text-sm"
				href="/m/{mailboxId}/clear/lots?by=list&q={encodeURIComponent(`list:"=${shown.list.identifier}"`)}"
				>All its mail</a
			>
		</form>
		{#if said}<p role="status">{said}</p>{/if}
	</section>
{/if}
