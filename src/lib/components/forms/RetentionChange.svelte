<script lang="ts">
	import type { SubmitFunction } from '@sveltejs/kit';
	import { enhance } from '$lib/enhance.ts';
	import { showMessages } from '../../../core/weigh/units.ts';

	interface Tried {
		mailboxes: {
			mailbox: string;
			messages: number;
			noLonger: number;
			dueAtOnce: { action: string; messages: number }[];
		}[];
		overrides?: string[];
		needsReason?: boolean;
		overQuota?: string[];
	}
	interface Props {
		/** The fields sent to the server. */
		fields: Record<string, string>;
		/** The change in words: "Put 3 folders under FIN-01". */
		words: string;
		look: string;
		save: string;
		asksReason?: boolean;
		/** With a warning if working papers exceed their quota. */
		onSaved: (overQuota: string[]) => void;
		onLeft?: () => void;
	}
	let { fields, words, look, save, asksReason = false, onSaved, onLeft }: Props = $props();

	let tried = $state.raw<Tried>();
	let wrong = $state<string>();
	let looking = $state(false);
	let form = $state<HTMLFormElement>();

	const DONE: Record<string, string> = { archive: 'archived', destroy: 'destroyed', review: 'reviewed' };

	// the preview follows every change of the form
	$effect(() => {
		void JSON.stringify(fields);
		tried = undefined;
		wrong = undefined;
		const timer = setTimeout(() => void lookAt(), 250);
		return () => clearTimeout(timer);
	});

	async function lookAt() {
		const asked = JSON.stringify(fields);
		looking = true;
		const data = new FormData();
		for (const [name, value] of Object.entries(fields)) data.set(name, value);
		try {
			const answer = await fetch(look, { method: 'POST', body: data, headers: { 'x-sveltekit-action': 'true' } });
			const { deserialize } = await import('$app/forms');
			const result = deserialize(await answer.text());
			if (asked !== JSON.stringify(fields)) return;
			if (result.type === 'success') tried = result.data?.tried as Tried;
			else wrong = String((result.type === 'failure' && result.data?.message) || 'The change could not be tried.');
		} catch {
			wrong = 'The server does not answer.';
		} finally {
			looking = false;
		}
	}

	const submit: SubmitFunction =
		() =>
		async ({ result, update }) => {
			if (result.type === 'failure') {
				wrong = String(result.data?.message ?? 'It could not be saved.');
				return;
			}
			await update({ reset: false });
			onSaved((result.type === 'success' && (result.data?.overQuota as string[] | undefined)) || []);
		};
</script>

<form
	method="post"
	action={save}
	use:enhance={submit}
	bind:this={form}
	class="bg-docket border-rule-strong mt-2 border p-3"
>
	<p class="font-semibold">{words}</p>
	{#if wrong}<p class="wrong mt-1 whitespace-pre-line" role="alert">{wrong}</p>{/if}
	<!-- a line high before anything was counted: the buttons below stay where they are -->
	<div class="mt-1 min-h-5 text-sm" role="status" data-testid="tried">
		{#if looking}
			Counting what this would change …
		{:else if tried}
			{#each tried.overQuota ?? [] as over (over)}<p class="text-wax font-semibold">{over}</p>{/each}
			{#each tried.overrides ?? [] as over (over)}<p>Replaces what was set: {over}</p>{/each}
			{#if tried.mailboxes.length === 0}
				<p>No due date would change.</p>
			{/if}
			{#each tried.mailboxes as { mailbox, messages, noLonger, dueAtOnce } (mailbox)}
				<p>
					<b>{mailbox}</b>: the due date of {showMessages(messages)} would change{#if noLonger > 0}; {showMessages(
							noLonger
						)} would no longer be due today{/if}.
					{#each dueAtOnce as { action, messages: now } (action)}
						<b class:text-wax={action === 'destroy'}
							>{showMessages(now)} would become due at once, to be {DONE[action]}.</b
						>
					{/each}
				</p>
			{/each}
		{/if}
	</div>
	{#each Object.entries(fields) as [name, value] (name)}<input type="hidden" {name} {value} />{/each}
	<div class="mt-2 flex flex-wrap items-end gap-2">
		{#if asksReason || tried?.needsReason}
			<label class="flex flex-col gap-1 text-sm"
				>Reason, for the ledger
				<input class="field w-80" name="because" maxlength="1000" required /></label
			>
		{/if}
		<button class="act" disabled={!tried}>Save</button>
		{#if onLeft}<button class="quiet" type="button" onclick={onLeft}>Cancel</button>{/if}
	</div>
</form>
