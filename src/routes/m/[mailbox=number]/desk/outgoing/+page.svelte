<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showMoment } from '$lib/moments.ts';
	import type { OutgoingView, SendOutcome } from '$lib/server/writing/index.ts';
	import { unsentWords } from '../../../../../core/writing/outgoing.ts';

	let { data, form } = $props();

	const base = $derived(`/m/${data.mailboxId}/desk`);
	const answer = $derived(
		form as { message?: string; sent?: SendOutcome; discarded?: number; signed?: boolean } | null
	);
	const open = $derived(data.outgoing.mail.filter(({ state }) => state !== 'sent'));
	const sent = $derived(data.outgoing.mail.filter(({ state }) => state === 'sent'));

	function stateOf({ state, sendAt, said, isInDoubt }: OutgoingView): string {
		if (isInDoubt) return unsentWords({ isUnknown: true, said: said || 'sending was cut off' });
		switch (state) {
			case 'waiting':
				return `Goes on ${showMoment(sendAt)}`;
			case 'sending':
				return 'Is being sent';
			case 'failed':
				return `Not sent: ${said}`;
			default:
				return 'Draft';
		}
	}
</script>

<svelte:head><title>Outgoing mail – Kovrel</title></svelte:head>

<div class="flex items-end justify-between gap-3">
	<h1>Outgoing mail</h1>
	{#if data.outgoing.mailbox.hasAddress}<a class="act" href="{base}/write">New mail</a>{/if}
</div>
<p class="mt-0.5 mb-3 max-w-3xl">
	Drafts, scheduled mail, and mail that could not be sent. You can change it until it is sent. Sent mail is in the
	folder of sent mail, or where you filed it.
</p>
<Refused
	message={answer?.message ?? (answer?.sent && !answer.sent.isSent ? `${unsentWords(answer.sent)}.` : undefined)}
/>
{#if answer?.sent?.isSent}<p class="bg-stamp-soft border-stamp mb-2 border-l-4 px-3 py-1.5" role="status">
		It was sent. The server said: {answer.sent.said}.
	</p>{/if}
{#if answer?.discarded}<form
		method="post"
		action="?/keep"
		use:enhance
		class="bg-stamp-soft border-stamp mb-2 flex items-center gap-3 border-l-4 px-3 py-1.5"
	>
		<span role="status">The mail was discarded.</span>
		<input type="hidden" name="id" value={answer.discarded} />
		<button class="quiet text-sm">Take back</button>
	</form>{/if}
{#if open.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		{#if data.outgoing.mailbox.hasAddress}Nothing waits to be sent. Begin a new mail above, or reply to a message at the
			<a class="lead" href={base}>desk</a>.
		{:else}{data.outgoing.mailbox.name} has no address to send from:
			<a class="lead" href="/m/{data.mailboxId}/weigh">set it on the page Weigh</a>.{/if}
	</p>
{:else}
	<table class="sheet">
		<thead
			><tr><th>Subject</th><th>To</th><th>State</th><th class="w-72"><span class="sr-only">Decide</span></th></tr
			></thead
		>
		<tbody>
			{#each open as mail (mail.id)}
				<tr>
					<td class="max-w-80 truncate font-semibold"
						><a class="lead" href="{base}/write?id={mail.id}">{mail.subject || '(no subject)'}</a></td
					>
					<td class="max-w-64 truncate text-sm">{mail.to}{mail.cc ? `, ${mail.cc}` : ''}</td>
					<td class="text-sm">{stateOf(mail)}</td>
					<td class="whitespace-nowrap">
						<form method="post" use:enhance class="flex gap-2">
							<input type="hidden" name="id" value={mail.id} />
							<button class="quiet text-sm" formaction="?/send" disabled={!data.outgoing.canSend}
								>{mail.isInDoubt || mail.state === 'failed' ? 'Send again' : 'Send now'}</button
							>
							{#if mail.isInDoubt}<button class="quiet text-sm" formaction="?/went">It went</button>{/if}
							<button class="quiet text-sm" formaction="?/discard">Discard</button>
						</form>
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
{/if}

{#if sent.length > 0}
	<h2 class="mt-5 mb-1">Sent last</h2>
	<table class="sheet">
		<thead><tr><th>Subject</th><th>To</th><th>Sent</th><th>By</th></tr></thead>
		<tbody>
			{#each sent as mail (mail.id)}
				<tr>
					<td class="max-w-80 truncate"
						>{#if mail.sentItemId === null || mail.to !== ''}{mail.subject || '(no subject)'}{:else}(destroyed since){/if}</td
					>
					<td class="max-w-64 truncate text-sm">{mail.to}{mail.cc ? `, ${mail.cc}` : ''}</td>
					<td class="text-sm whitespace-nowrap"
						>{showMoment(mail.sentAt)}{mail.sentItemId === null ? ', not filed yet' : ''}</td
					>
					<td class="text-sm">{mail.madeBy}</td>
				</tr>
			{/each}
		</tbody>
	</table>
{/if}

<details class="mt-5">
	<summary class="cursor-pointer font-semibold">Signature of {data.outgoing.mailbox.name}</summary>
	<form
		method="post"
		action="?/signature"
		use:enhance={() =>
			({ update }) =>
				update({ reset: false })}
		class="mt-2 flex max-w-xl flex-col gap-2"
	>
		<label class="sr-only" for="signature">Signature</label>
		<textarea id="signature" name="signature" class="field font-mono text-sm" rows="4" maxlength="2000"
			>{data.outgoing.signature}</textarea
		>
		<div class="flex items-center gap-3">
			<button class="act">Set the signature</button>{#if answer?.signed}<span role="status"
					>New mail ends with it from now on.</span
				>{/if}
		</div>
	</form>
</details>
