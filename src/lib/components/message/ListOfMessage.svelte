<script lang="ts">
	import ListDecisions from '$lib/components/message/ListDecisions.svelte';
	import type { ListInFull } from '$lib/server/lists/index.ts';
	import { showCount } from '../../../core/weigh/units.ts';

	/** The list that a message is from, with Kovrel's advice and the decisions on it. */
	let { mailboxId, listId }: { mailboxId: number; listId: number } = $props();

	let shown = $state.raw<ListInFull>();
	let wrong = $state<string>();

	$effect(() => {
		const wanted = listId;
		shown = undefined;
		wrong = undefined;
		void (async () => {
			const answer = await fetch(`/m/${mailboxId}/lists/${wanted}/details`).catch(() => undefined);
			const body = (await answer?.json().catch(() => undefined)) as (ListInFull & { message?: string }) | undefined;
			if (wanted !== listId) return;
			if (answer?.ok) shown = body;
			else wrong = body?.message ?? 'The server does not answer.';
		})();
	});
</script>

{#if wrong}<p class="wrong text-sm" role="alert">{wrong}</p>{/if}
{#if shown}
	<section class="border-rule flex flex-col gap-1 border-t pt-1 text-sm" aria-label="List">
		<p>
			From the list <a class="lead font-semibold" href="/m/{mailboxId}/lists/{listId}">{shown.list.name}</a>, {showCount(
				shown.list.messages
			)} messages here. {shown.advice}
		</p>
		<ListDecisions {mailboxId} {listId} />
	</section>
{/if}
