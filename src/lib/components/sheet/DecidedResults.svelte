<script lang="ts">
	import type { SubmitFunction } from '@sveltejs/kit';
	import { SvelteSet } from 'svelte/reactivity';
	import { enhance } from '$lib/enhance.ts';
	import Refused from '$lib/components/forms/Refused.svelte';
	import type { DecisionResult } from '$lib/server/docket/index.ts';
	import { leftSentence } from '../../../core/docket/left.ts';
	import { showCount, showMessages } from '../../../core/weigh/units.ts';

	interface Props {
		/** The results of the last decision, one a mailbox. */
		decided: readonly DecisionResult[];
		onTakenBack?: () => void;
		/** The page that takes back by its own action, where dockets have no pages. */
		docketAction?: string | undefined;
	}
	let { decided, onTakenBack, docketAction }: Props = $props();

	// what was decided meanwhile stays in sight
	const takenBack = new SvelteSet<number>();
	const shown = $derived(decided.filter(({ docket }) => docket === undefined || !takenBack.has(docket)));

	let refused = $state<string>();

	const takeBack: SubmitFunction =
		({ formData }) =>
		async ({ result, update }) => {
			refused = result.type === 'failure' ? String(result.data?.message) : undefined;
			if (result.type !== 'failure' && result.type !== 'error') {
				takenBack.add(Number(formData.get('id')));
				onTakenBack?.();
			}
			await update({ reset: false });
		};
</script>

<Refused message={refused} />
{#each shown as one (one.mailbox)}
	<div
		class="border-stamp bg-stamp-soft flex flex-wrap items-center gap-3 border-l-4 px-3 py-1.5"
		role="status"
		data-testid="decided"
	>
		<p class="min-w-0 flex-1">
			{#if one.isDone && one.docket !== undefined && one.messages === 0}Nothing was changed.{:else if one.sentences.length > 0}{one.sentences.join(
					' '
				)}{:else}{showMessages(one.messages)}
				{one.messages === 1 ? 'is' : 'are'} on the docket: nothing happens until it is carried out.{/if}
			{#if !one.isDone && one.docket !== undefined && !docketAction}<a class="lead" href="/dockets/{one.docket}"
					>Docket {one.docket}</a
				>{/if}
			{#if one.flagged > 0}{showCount(one.flagged)} of them {one.flagged === 1 ? 'is' : 'are'} flagged.{/if}
			{#each one.left as left, at (at)}
				{leftSentence(left)}{/each}
		</p>
		{#if one.isDone && one.messages > 0 && one.docket !== undefined}
			<form
				method="post"
				action={docketAction ? `${docketAction}?/takeBack` : `/dockets/${one.docket}?/takeBack`}
				use:enhance={takeBack}
			>
				<input type="hidden" name="id" value={one.docket} />
				<button class="quiet text-sm">Take back</button>
			</form>
		{/if}
	</div>
{/each}
