<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showMoment } from '$lib/moments.ts';
	import { showCount, showMessages } from '../../../../../core/weigh/units.ts';
	import { keepFields } from '$lib/keep-fields.ts';

	let { data, form } = $props();

	const answer = $derived(
		form as {
			message?: string;
			marked?: {
				sender: string;
				kind?: string;
				verdict: 'trust' | 'block' | 'none';
				before: 'trust' | 'block' | 'none';
			};
			tried?: { sender: string; words: string; senders: number; messages: number; confirm?: string };
			judged?: string;
			from?: string;
			junkSet?: boolean;
		} | null
	);
	const DONE = { trust: 'trusted', block: 'blocked', none: 'neither trusted nor blocked' };
</script>

<svelte:head><title>Trusted and blocked – Kovrel</title></svelte:head>

<h1>Trusted and blocked</h1>
<p class="mt-1 mb-3 max-w-3xl">
	For all mailboxes. Mail of blocked senders goes to junk as it comes in. If two lines match a sender, the narrower one
	decides: an address over a list, a list over a domain, a longer domain over a shorter one, and that over a top-level
	domain.
</p>
<Refused message={answer?.message} />

<form
	method="post"
	action="?/mark"
	use:enhance
	class="bg-sheet border-rule-strong mb-4 flex flex-wrap items-end gap-3 border p-3"
>
	<label class="flex flex-1 flex-col gap-1"
		><span class="text-sm font-semibold">A sender: news@shop.example, shop.example, or .example</span>
		<input class="field" name="sender" required maxlength="300" autocomplete="off" /></label
	>
	<button class="act" formaction="?/tryBlock">Block …</button>
	<button class="quiet" name="verdict" value="trust">Trust</button>
</form>
{#if answer?.tried}
	{@const { sender, words, senders, messages, confirm } = answer.tried}
	<form
		method="post"
		action="?/mark"
		use:enhance
		class="border-stamp bg-stamp-soft mb-4 flex flex-wrap items-end gap-3 border-l-4 p-3"
		aria-label="Block"
	>
		<input type="hidden" name="sender" value={sender} />
		<p class="w-full" role="status">
			Blocking <b>{words}</b> touches {showCount(senders)}
			{senders === 1 ? 'sender' : 'senders'} with {showMessages(messages)} in the last 12 months. Their new mail goes to junk;
			mail that is here stays.
		</p>
		{#if confirm}
			<label class="flex flex-col gap-1"
				><span class="text-sm">They include addresses of this office. To block them, type <b>{confirm}</b></span>
				<input class="field w-72" name="confirm" required autocomplete="off" maxlength="300" /></label
			>
		{/if}
		<button class="act" name="verdict" value="block">Block {words}</button>
	</form>
{/if}
{#if answer?.marked}
	{@const { sender, kind, verdict, before } = answer.marked}
	<form
		method="post"
		action="?/mark"
		use:enhance
		class="border-stamp bg-stamp-soft mb-4 flex items-center gap-3 border-l-4 p-3"
	>
		<input type="hidden" name="sender" value={sender} />
		{#if kind}<input type="hidden" name="kind" value={kind} />{/if}
		<input type="hidden" name="confirm" value={sender.replace(/^[.@]/, '')} />
		<p class="flex-1" role="status">{sender} is {DONE[verdict]} from now on.</p>
		{#if verdict !== before}<button class="quiet" name="verdict" value={before}>Take back</button>{/if}
	</form>
{/if}

{#if data.marks.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		Nobody is trusted or blocked yet. Lists are blocked and trusted on <a class="lead" href="../lists">their sheet</a>,
		enter other senders above.
	</p>
{:else}
	<table class="sheet">
		<thead><tr><th>Sender</th><th>Mark</th><th>Since</th><th><span class="sr-only">Remove</span></th></tr></thead>
		<tbody>
			{#each data.marks as mark (mark.id)}
				<tr>
					<td class="break-all">{mark.words}</td>
					<td><b class:text-wax={mark.verdict === 'block'}>{DONE[mark.verdict]}</b></td>
					<td class="text-sm">{showMoment(mark.madeAt)}, {mark.madeBy}</td>
					<td class="number">
						<form method="post" action="?/mark" use:enhance>
							<input type="hidden" name="sender" value={mark.value} />
							<input type="hidden" name="kind" value={mark.kind} />
							<button class="lead" name="verdict" value="none" aria-label="Remove the mark of {mark.words}"
								>remove the mark</button
							>
						</form>
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
{/if}

<h2 class="mt-6 mb-1.5">Which mark decides?</h2>
<form
	method="post"
	action="?/judge"
	use:enhance={keepFields}
	class="bg-sheet border-rule-strong flex flex-wrap items-end gap-3 border p-3"
>
	<label class="flex flex-col gap-1 text-sm"
		><span>An address</span><input class="field w-72" name="from" required maxlength="300" /></label
	>
	<label class="flex flex-col gap-1 text-sm"
		><span>of the list (may be empty)</span><input class="field w-72" name="list" maxlength="300" /></label
	>
	<button class="quiet">Check</button>
	{#if answer?.judged}<p class="w-full" role="status"><b>{answer.from}</b>: {answer.judged}</p>{/if}
</form>

<h2 class="mt-6 mb-1.5">Junk of {data.mailbox.name}</h2>
<form
	method="post"
	action="?/junk"
	use:enhance={keepFields}
	class="bg-sheet border-rule-strong flex flex-col gap-2 border p-3"
>
	<label class="flex items-center gap-2"
		>Junk stays for <input
			class="field w-20"
			type="number"
			name="junkDays"
			min="1"
			max="3650"
			value={data.mailbox.junkDays}
			required
		/> days after it was received</label
	>
	<label class="flex items-start gap-2"
		><input class="mt-1" type="checkbox" name="clearsJunk" value="1" checked={data.mailbox.clearsJunk} />
		<span
			>After that it goes to the bin every night, and can be restored from there for {data.mailbox.binDays} days. The first
			night only drafts the docket: you carry it out.</span
		></label
	>
	<div class="flex items-center gap-3">
		<button class="act">Save</button>
		{#if answer?.junkSet}<p role="status">Saved.</p>{/if}
	</div>
</form>
