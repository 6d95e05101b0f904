<script lang="ts">
	import type { SubmitFunction } from '@sveltejs/kit';
	import { enhance } from '$lib/enhance.ts';
	import { refusalOf, showResultKeepingFocus } from '$lib/sent-form.ts';
	import type { BackIssues, ListRow } from '$lib/server/lists/index.ts';
	import type { ListDecision } from '../../../core/docket/decisions.ts';
	import { showCount, showMessages } from '../../../core/weigh/units.ts';

	interface Props {
		/** The selected lists. */
		lists: readonly ListRow[];
		/** The selection is being sent. @returns selects it again if the server refuses */
		onSend: () => () => void;
		onRefused: (message: string) => void;
	}
	let { lists, onSend, onRefused }: Props = $props();

	const ISSUES: Record<BackIssues, string> = {
		leave: 'stay as they are',
		archive: 'are archived',
		delete: 'are deleted',
		'keep-newest': 'are deleted, but the newest',
		junk: 'go to junk'
	};
	let backIssues = $state<BackIssues>('leave');
	let keepNewest = $state(1);
	let advises = $state(false);
	/* Decisions being sent. */
	let sending = $state(0);
	let form = $state<HTMLFormElement>();
	let trustForm = $state<HTMLFormElement>();
	let wish: Record<string, unknown> = {};

	const none = $derived(lists.length === 0);
	const strangers = $derived(lists.filter(({ known }) => !known));
	const known = $derived(lists.filter((list) => list.known));
	const messages = $derived(lists.reduce((sum, { live }) => sum + live, 0));
	const counted = (count: number) => `${showCount(count)} ${count === 1 ? 'list' : 'lists'}`;
	const ids = (of: readonly ListRow[]) => of.map(({ id }) => id);

	function post(decision: ListDecision, of: readonly ListRow[], issues: BackIssues, blocked: readonly ListRow[] = []) {
		wish = { decision, ids: ids(of), blocked: ids(blocked), backIssues: issues, keepNewest };
		form?.requestSubmit();
	}

	function leave() {
		if (strangers.length > 0) advises = true;
		else post('unsubscribe', lists, backIssues);
	}

	/** Decides by the digit on a button. */
	export function pressDigit(digit: number): void {
		if (none) return;
		if (digit === 1) leave();
		if (digit === 2) post('block', lists, backIssues === 'leave' ? 'junk' : backIssues);
		if (digit === 3) post('digest', lists, 'leave');
		if (digit === 4) trustForm?.requestSubmit();
	}

	const submit: SubmitFunction = ({ formData }) => {
		formData.set('wish', JSON.stringify(wish));
		// sent: what is selected from now on belongs to the next decision
		sending++;
		advises = false;
		const selectAgain = onSend();
		return async ({ result, update }) => {
			sending--;
			const refusal = refusalOf(result);
			if (refusal === undefined) return showResultKeepingFocus(update);
			selectAgain();
			onRefused(refusal);
		};
	};
</script>

<div class="decide" role="group" aria-label="Decide on lists">
	<p class="w-full text-sm" role="status" data-testid="selected">
		{#if none}
			Select lists to decide on them.
		{:else}
			<b>{counted(lists.length)}, {showMessages(messages)} in folders</b>{#if strangers.length > 0}, {showCount(
					strangers.length
				)} of them {strangers.length === 1 ? 'a stranger' : 'strangers'}{/if}
		{/if}
	</p>
	<form method="post" action="?/decide" use:enhance={submit} bind:this={form} class="contents">
		{#if advises}
			<p class="w-full text-sm">
				Nobody here has written to {strangers.length === 1 ? strangers[0]?.name : counted(strangers.length)}. To a
				stranger, any click says that this address is read: block rather than unsubscribe.
			</p>
			<button
				class="act px-2! text-sm"
				type="button"
				disabled={sending > 0}
				onclick={() => post('unsubscribe', known, backIssues, strangers)}
				>{known.length > 0 ? `Unsubscribe from ${counted(known.length)}, block` : 'Block'}
				{counted(strangers.length)} as junk</button
			>
			<button
				class="quiet px-2! text-sm"
				type="button"
				disabled={sending > 0}
				onclick={() => post('unsubscribe', lists, backIssues)}
				>Unsubscribe from all {showCount(lists.length)} nonetheless</button
			>
			<button class="quiet px-2! text-sm" type="button" onclick={() => (advises = false)}>Not now</button>
		{:else}
			<button class="quiet border-stamp! px-2! text-sm" type="button" disabled={none || sending > 0} onclick={leave}
				><kbd>1</kbd> Unsubscribe {none ? '' : `from ${counted(lists.length)}`}</button
			>
			<button class="quiet px-2! text-sm" type="button" disabled={none || sending > 0} onclick={() => pressDigit(2)}
				><kbd>2</kbd> Block</button
			>
			<button class="quiet px-2! text-sm" type="button" disabled={none || sending > 0} onclick={() => pressDigit(3)}
				><kbd>3</kbd> Fold into the digest</button
			>
			<label class="ml-auto flex items-center gap-1.5 text-sm"
				>Back issues
				<select class="field py-0.5!" bind:value={backIssues}>
					{#each Object.entries(ISSUES) as [value, name] (value)}<option {value}>{name}</option>{/each}
				</select></label
			>
			{#if backIssues === 'keep-newest'}
				<label class="flex items-center gap-1.5 text-sm"
					><span class="sr-only">So many of the newest stay</span>
					<input class="field w-16 py-0.5!" type="number" min="1" max="1000000" bind:value={keepNewest} /> of each</label
				>
			{/if}
		{/if}
	</form>
	{#if !advises}
		<form
			method="post"
			action="?/trust"
			bind:this={trustForm}
			use:enhance={() => {
				const selectAgain = onSend();
				return async ({ result, update }) => {
					const refusal = refusalOf(result);
					if (refusal === undefined) return showResultKeepingFocus(update);
					selectAgain();
					onRefused(refusal);
				};
			}}
		>
			{#each lists as { id } (id)}<input type="hidden" name="id" value={id} />{/each}
			<button class="quiet px-2! text-sm" disabled={none || sending > 0}><kbd>4</kbd> Trust</button>
		</form>
	{/if}
</div>
