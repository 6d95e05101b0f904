<script lang="ts">
	import Explain from '$lib/components/frames/Explain.svelte';
	import XIcon from '@lucide/svelte/icons/x';
	import type { SubmitFunction } from '@sveltejs/kit';
	import { enhance } from '$lib/enhance.ts';
	import { page } from '$app/state';
	import type { Certificate, DocketView, LineView, OtherDocket } from '$lib/server/docket/index.ts';
	import type { MailboxWeight } from '$lib/server/weigh/index.ts';
	import JobProgress from '$lib/components/frames/JobProgress.svelte';
	import QuotaBar from '$lib/components/charts/QuotaBar.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { jobs } from '$lib/jobs.svelte.ts';
	import type { JobStatus } from '$lib/server/process/index.ts';
	import type { WaitingForServer } from '$lib/server/mail/index.ts';
	import { showMoment } from '$lib/moments.ts';
	import { isConfirmedBy } from '../../../core/docket/confirmation.ts';
	import { ruleOf } from '../../../core/docket/decisions.ts';
	import { leftSentence, protectionOf } from '../../../core/docket/left.ts';
	import { askSentence } from '../../../core/docket/sentences.ts';
	import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';

	interface Props {
		docket: DocketView | null;
		mailbox: MailboxWeight;
		/** Of what it destroyed. */
		certificate?: Certificate | null;
		/** What the server of a live mailbox has still to confirm of it. */
		server?: WaitingForServer;
		/** Other dockets: a link opens them, they are never carried out from here. */
		others?: OtherDocket[];
		/** Whether it is on its own page, and stays there afterwards. */
		isAlone?: boolean;
	}
	const NOTHING_WAITS = { waiting: 0, refused: 0 };
	let { docket, mailbox, certificate = null, server = NOTHING_WAITS, others = [], isAlone = false }: Props = $props();

	const isOfThis = ({ about }: Pick<JobStatus, 'about'>) => about?.kind === 'docket' && about.docket === docket?.id;
	const job = $derived(jobs.running.find(isOfThis));
	// carried out in the background: the job tells why it was refused
	const failed = $derived([...jobs.all.values()].findLast(isOfThis));
	const confirmation = $derived(docket?.confirmation);
	/* A destruction needs a second person, if the policy says so. */
	const wantsApproval = $derived(page.data.approvalDemanded === true && docket?.destroys === true);
	const waitsForApproval = $derived(wantsApproval && !docket?.approvedBy);
	/* The rest is behind a button. */
	const ASKS_OPEN = 12;
	let confirm = $state('');
	const isConfirmed = $derived(confirmation === undefined || isConfirmedBy(confirmation, confirm));
	// a confirmation typed for one docket is not one for the next
	const shown = $derived(docket?.id);
	$effect(() => {
		void shown;
		confirm = '';
	});
	let refused = $state<string>();

	const carryOutLabel = $derived.by(() => {
		if (!docket || docket.messages + docket.onLists === 0)
			return 'Nothing to carry out: no message is left to decide on';
		if (docket.messages === 0)
			return `Carry out: ${showCount(docket.onLists)} ${docket.onLists === 1 ? 'list' : 'lists'}`;
		const [first] = docket.lines;
		return docket.lines.length === 1 && first
			? `Carry out: ${ruleOf(first.decision).verb} ${showMessages(docket.messages)}`
			: `Carry out ${showCount(docket.lines.length)} decisions on ${showMessages(docket.messages)}`;
	});

	/* Whether another line already decides on what this one leaves for a protection. */
	const included = (line: LineView, only: string) =>
		(docket?.lines ?? []).some(
			(other) =>
				other.options.only === only &&
				other.decision === line.decision &&
				JSON.stringify(other.scope) === JSON.stringify(line.scope)
		);

	/* A refusal is shown on the slip itself, wherever the slip is. */
	const submit: SubmitFunction = () => {
		refused = undefined;
		return async ({ result, update }) => {
			if (result.type === 'failure') refused = String(result.data?.message ?? 'It could not be done.');
			await update({ reset: false });
		};
	};
</script>

{#snippet standing(line: LineView)}
	{@const freed = line.freedAtOnce + line.freedLater}
	{#if docket && docket.lines.length > 1 && freed > 0}
		<div class="my-1 flex items-center gap-2 text-xs">
			<div class="flex-1">
				<QuotaBar bytes={mailbox.bytes} quota={mailbox.quotaBytes} after={mailbox.bytes - freed} />
			</div>
			<span>{showBytes(freed)} {line.freedLater > 0 ? 'free once the bin is empty' : 'free at once'}</span>
		</div>
	{/if}
	{#if docket && line.flagged > 0 && ruleOf(line.decision).to === 'archived'}
		<form method="post" action="/dockets/{docket.id}?/leaveFlagged" use:enhance={submit} class="text-sm">
			<input type="hidden" name="line" value={line.id} />
			{showCount(line.flagged)} of them {line.flagged === 1 ? 'is' : 'are'} flagged.
			<button class="lead">Leave flagged mail</button>
		</form>
	{/if}
	{#if line.consequence}<p class="text-wax text-sm">{line.consequence}</p>{/if}
	{#if line.options.asks?.length}
		{@const isShort = line.options.asks.length <= ASKS_OPEN}
		<details class="text-sm" bind:open={() => isShort, () => undefined}>
			<summary class="cursor-pointer">What Kovrel sends: {showCount(line.options.asks.length)}</summary>
			<ul class="max-h-40 overflow-auto" data-testid="asks">
				{#each line.options.asks as ask (ask.listId)}<li class="break-words">{askSentence(ask)}</li>{/each}
			</ul>
		</details>
	{/if}
	{#each line.conflictSentences as sentence, at (at)}<p class="text-sm">{sentence}</p>{/each}
	{#if line.left.length > 0}
		<ul class="text-ink-soft flex flex-col gap-0.5 text-sm">
			{#each line.left as entry (entry.reason)}
				{@const only = protectionOf(entry.reason)}
				<li>
					{leftSentence(entry)}
					{#if docket && only && !included(line, only)}
						<form method="post" action="/dockets/{docket.id}?/include" use:enhance={submit} class="inline">
							<input type="hidden" name="line" value={line.id} />
							<input type="hidden" name="only" value={only} />
							<button class="lead">Include {only.replace('-', ' ')} mail</button>
						</form>
					{/if}
				</li>
			{/each}
		</ul>
	{/if}
{/snippet}

<aside class="slip" aria-label="Docket">
	<div class="flex items-baseline gap-2">
		<h2>Docket{docket ? ` ${docket.id}` : ''}</h2>
		<span class="mr-auto self-center"><Explain word="docket" /></span>
		{#if docket}<span class="stamp" data-testid="docket-state">{docket.state.replace('-', ' ')}</span>{/if}
		{#if docket && !isAlone && (docket.state === 'carried-out' || docket.state === 'taken-back')}
			<form method="post" action="/dockets/{docket.id}?/dismiss" use:enhance={submit}>
				<button class="quiet px-1!" aria-label="Dismiss the result of docket {docket.id}" title="Dismiss"
					><XIcon size={14} aria-hidden="true" /></button
				>
			</form>
		{/if}
	</div>
	<Refused message={refused ?? (failed?.state === 'failed' ? (failed.error ?? undefined) : undefined)} />
	{#if !docket}
		<p class="text-ink-soft">
			Your decisions are collected here. Nothing happens until you carry the docket out, and you can take it back
			afterwards.
		</p>
		<p>
			To draft one, <a class="lead" href="/m/{mailbox.id}/lists">unsubscribe from lists</a>,
			<a class="lead" href="/m/{mailbox.id}/clear">archive old mail</a>, or
			<a class="lead" href="/m/{mailbox.id}/clear/lots">decide on lots</a>.
		</p>
	{:else}
		{#if docket.name}<p class="font-semibold">{docket.name}</p>{/if}
		<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
		<ol class="lines" data-testid="docket-sentence" tabindex="0">
			{#each docket.lines as line (line.id)}
				<li>
					<div class="flex items-start justify-between gap-2 text-[1.02rem] leading-snug">
						<p>{line.sentence}</p>
						{#if docket.state === 'drafted' && docket.lines.length > 1}
							<form method="post" action="/dockets/{docket.id}?/dropLine" use:enhance={submit}>
								<input type="hidden" name="line" value={line.id} />
								<button class="quiet px-1!" aria-label="Discard line {line.position}: {line.sentence}"
									><XIcon size={14} aria-hidden="true" /></button
								>
							</form>
						{/if}
					</div>
					{#if docket.state === 'drafted'}{@render standing(line)}{/if}
				</li>
			{/each}
		</ol>
		{#if server.waiting > 0}<p class="text-sm" data-testid="waiting">
				<b>{showMessages(server.waiting)}</b>
				{server.waiting === 1 ? 'waits' : 'wait'} for the mail server.{#if server.refused > 0}
					<a class="lead" href="/mailboxes/live">It refused {showCount(server.refused)} of them.</a>{/if}
			</p>{/if}
		{#if docket.state === 'drafted' && !job}
			{#if docket.freedAtOnce + docket.freedLater > 0}
				<div class="flex flex-col gap-1.5">
					<QuotaBar bytes={mailbox.bytes} quota={mailbox.quotaBytes} after={mailbox.bytes - docket.freedAtOnce} />
					<p class="text-sm">
						{showBytes(mailbox.bytes)} now, <b>{showBytes(mailbox.bytes - docket.freedAtOnce)}</b>
						afterwards{#if docket.freedLater > 0}, and {showBytes(
								mailbox.bytes - docket.freedAtOnce - docket.freedLater
							)} once the bin is empty{/if}.
						{#if docket.lines.some(({ decision }) => decision === 'archive')}Archived mail stays searchable and can be
							restored.{/if}
					</p>
				</div>
			{/if}
			<form method="post" action="/dockets/{docket.id}?/carryOut" use:enhance={submit} class="flex flex-col gap-2">
				<input type="hidden" name="messages" value={docket.messages} />
				<input type="hidden" name="bytes" value={docket.bytes} />
				{#if wantsApproval}
					<p class="text-sm">
						{#if docket.approvedBy}
							Approved {showMoment(docket.approvedAt)} by <b>{docket.approvedBy}</b>.
						{:else if docket.draftedBy === page.data.person?.name}
							You prepared this, so a second administrator has to approve it. They find it as
							<a class="lead" href="/dockets/{docket.id}">docket {docket.id}</a>.
						{:else}
							Prepared by <b>{docket.draftedBy}</b>. Somebody who did not prepare it has to approve it.
						{/if}
					</p>
					{#if !docket.approvedBy && docket.draftedBy !== page.data.person?.name}
						<button class="act justify-center" formaction="/dockets/{docket.id}?/approve"
							>Approve: destroy {showMessages(docket.messages)}</button
						>
					{/if}
				{/if}
				{#if confirmation && !waitsForApproval}
					<label class="flex flex-col gap-1 text-sm"
						><span
							>To destroy {showMessages(docket.destroyed)} for good, type
							{confirmation.of === 'mailbox' ? "the mailbox's name" : 'the word'}: <b>{confirmation.text}</b></span
						>
						<input class="field" name="confirm" autocomplete="off" bind:value={confirm} /></label
					>
				{/if}
				<button
					class="act justify-center"
					class:final={docket.destroys}
					disabled={docket.messages + docket.onLists === 0 || waitsForApproval || !isConfirmed}
				>
					{carryOutLabel}{waitsForApproval ? ', once approved' : ''}
				</button>
				<button class="quiet justify-center" formaction="/dockets/{docket.id}?/drop">Discard this docket</button>
			</form>
			{#if !isAlone}<a class="lead text-sm" href="/dockets/{docket.id}">Details, folder by folder</a>{/if}
		{:else if job}
			<JobProgress {job} />
		{:else if docket.state === 'carrying-out' || docket.state === 'taking-back'}
			<p>This docket was stopped on the way. What it has done so far is kept.</p>
			<form
				method="post"
				action="/dockets/{docket.id}?/{docket.state === 'carrying-out' ? 'carryOut' : 'takeBack'}"
				use:enhance={submit}
				class="flex flex-col gap-2"
			>
				<button class="act justify-center">Continue</button>
				{#if docket.state === 'carrying-out' && !docket.destroys}<button
						class="quiet justify-center"
						formaction="/dockets/{docket.id}?/takeBack">Take back what it has done</button
					>{/if}
			</form>
		{:else if docket.state === 'carried-out'}
			<p class="text-ink-soft text-sm">Carried out {showMoment(docket.carriedOutAt)} by {docket.carriedOutBy}.</p>
			{#if docket.destroys}
				{#if certificate}
					<section class="border-rule-strong bg-sheet border p-2 text-sm" aria-label="Certificate of destruction">
						<p>
							<b>Certificate of destruction</b>: {showMessages(certificate.messages)} ({showBytes(certificate.bytes)})
							destroyed on {showMoment(certificate.madeAt)} by {certificate.madeBy}.
						</p>
						{#if certificate.sha256}<p class="text-ink-soft truncate text-xs" title={certificate.sha256}>
								SHA-256 {certificate.sha256}
							</p>{/if}
						<a class="lead" href="/retain/certificates/{docket.id}">Open the certificate</a>
					</section>
				{/if}
				<p class="text-sm">Destroyed mail cannot be restored.</p>
			{/if}
			{#if docket.lines.some(({ decision }) => ruleOf(decision).takenBack !== 'never')}
				<form method="post" action="/dockets/{docket.id}?/takeBack" use:enhance={submit}>
					<button class="quiet w-full justify-center"
						>Take back {docket.messages > 0 ? showMessages(docket.messages) : 'this docket'}</button
					>
				</form>
			{/if}
			{#if !isAlone}<a class="lead text-sm" href="/dockets/{docket.id}">Details, folder by folder</a>{/if}
		{:else}
			<p class="text-ink-soft text-sm">
				Taken back {showMoment(docket.takenBackAt)}: {showMessages(docket.takenBackMessages)}
				{docket.takenBackMessages === 1 ? 'is' : 'are'} as before{#if docket.takenBackMessages < docket.messages}; {showCount(
						docket.messages - docket.takenBackMessages
					)} had been changed since and stayed as they are{/if}.
			</p>
		{/if}
	{/if}
	{#if others.length > 0}
		<section class="border-rule-strong border-t pt-2 text-sm" aria-label="Other dockets">
			<h3 class="text-sm font-semibold">Other dockets</h3>
			<ul>
				{#each others as other (other.id)}
					<li>
						<a class="lead" href="/dockets/{other.id}">Docket {other.id}{other.name ? ` (${other.name})` : ''}</a>:
						{showMessages(other.messages)}, {other.state.replace('-', ' ')}{other.draftedBy === page.data.person?.name
							? ''
							: `, prepared by ${other.draftedBy}`}
					</li>
				{/each}
			</ul>
		</section>
	{/if}
</aside>

<style>
	/* a slip torn off a pad */
	.slip {
		position: sticky;
		top: 1rem;
		align-self: start;
		display: flex;
		flex-direction: column;
		gap: 0.75rem;
		max-height: calc(100vh - 2rem);
		overflow: hidden;
		padding: 1rem 1.1rem 1.2rem;
		background: var(--docket);
		border: 1px solid var(--rule-strong);
		border-top: 3px dashed var(--rule-strong);
	}
	.lines {
		display: flex;
		flex-direction: column;
		gap: 0.6rem;
		/* the lines scroll; the buttons stay in sight */
		overflow-y: auto;
		min-height: 3rem;
	}
	.slip > :global(:not(.lines)) {
		flex-shrink: 0;
	}
	.lines li + li {
		border-top: 1px solid var(--rule-strong);
		padding-top: 0.6rem;
	}
	.lines ul li {
		border: 0;
		padding: 0;
	}
	.stamp {
		font:
			600 0.8rem 'Source Sans 3 Variable',
			sans-serif;
		color: var(--stamp);
		border: 1.5px solid var(--stamp);
		border-radius: 3px;
		padding: 1px 8px;
	}
	.final {
		background: var(--wax);
		border-color: var(--wax);
		color: var(--on-stamp);
	}
</style>
