<script lang="ts">
	import DateField from '$lib/components/forms/DateField.svelte';
	import { enhance } from '$lib/enhance.ts';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import RequestWords from '$lib/components/forms/RequestWords.svelte';
	import StateMark from '$lib/components/message/StateMark.svelte';
	import { showMoment } from '$lib/moments.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { showMessages } from '../../../core/weigh/units.ts';

	let { data, form } = $props();
	const answer = $derived(
		form as { message?: string; answered?: { state: string; person: string; restored: number } } | null
	);
	let reading = $state<number>();
	const STATES: Record<string, string> = { granted: 'granted', 'in-part': 'granted in part', declined: 'declined' };
</script>

<svelte:head><title>Requests – Kovrel</title></svelte:head>

<h1>Requests</h1>
<p class="mt-1 mb-2 max-w-3xl">
	Requests of colleagues, the oldest first. They see your answer and your note; both are in the ledger.
</p>
<Refused message={answer?.message} />
{#if answer?.answered}
	<p class="border-stamp bg-stamp-soft mb-3 border-l-4 px-3 py-2" role="status">
		{answer.answered.person}: {STATES[answer.answered.state]}{answer.answered.restored > 0
			? `, ${showMessages(answer.answered.restored)} restored`
			: ''}.
	</p>
{/if}
{#each data.requestList.open as request (request.id)}
	{@const isCut = request.messages > request.items.length}
	<section class="bg-sheet border-rule-strong mb-3 border p-3" aria-label="Request of {request.person}">
		<p><b>{request.person}</b>, {showMoment(request.madeAt)}: <RequestWords {request} /></p>
		<p class="border-rule my-2 border-l-4 pl-3">{request.because}</p>
		<form method="post" action="?/answer" use:enhance>
			<input type="hidden" name="request" value={request.id} />
			{#if isCut}<input type="hidden" name="all" value="1" />
				<p class="text-sm">
					The first {showMessages(request.items.length)} of {showMessages(request.messages)}; the answer is for all.
				</p>{/if}
			{#if request.items.length > 0}
				<ul class="mb-2 max-h-52 overflow-auto text-sm" aria-label="Messages asked for">
					{#each request.items as item (item.itemId)}
						<li class="flex items-baseline gap-2">
							{#if item.state === null}
								<span class="text-wax">a message that was destroyed</span>
							{:else}
								{#if !isCut}<input
										type="checkbox"
										name="id"
										value={item.itemId}
										checked
										aria-label="Restore {item.subject || '(no subject)'}"
									/>{/if}
								<span class="w-24 shrink-0 whitespace-nowrap"
									>{item.receivedOn ? showDate(item.receivedOn) : 'undated'}</span
								>
								<button class="lead truncate" type="button" onclick={() => (reading = item.itemId)}
									>{item.subject || '(no subject)'}</button
								>
								<span class="text-ink-soft">{item.fromName || item.fromAddress}, {item.folder}</span>
								<StateMark state={item.state} />{#if item.isHeld}<b>held</b>{/if}
							{/if}
						</li>
					{/each}
				</ul>
			{/if}
			<div class="flex flex-wrap items-end gap-3 text-sm">
				{#if request.wish === 'reach'}
					<label class="flex items-center gap-2 pb-1.5"
						><input type="checkbox" name="restore" value="1" /> to restore as well</label
					>
					<label class="flex flex-col gap-1">Until (empty: until you end it)<DateField name="until" /></label>
				{/if}
				<label class="flex flex-1 flex-col gap-1"
					>Note to {request.person} (needed to decline)<input class="field" name="word" maxlength="2000" /></label
				>
				<button class="act" name="answer" value="grant"
					>{request.wish === 'reach'
						? 'Grant access'
						: request.wish === 'keep'
							? `Keep ${isCut ? 'all' : 'selected messages'}`
							: `Restore ${isCut ? 'all' : 'selected messages'}`}</button
				>
				<button class="quiet" name="answer" value="decline">Decline</button>
			</div>
		</form>
	</section>
{:else}
	<p class="bg-sheet border-rule-strong mb-3 border p-5">There are no open requests.</p>
{/each}
{#if data.requestList.answered.length > 0}
	<h2 class="mt-5 mb-1">Answered</h2>
	<table class="sheet">
		<thead><tr><th>When</th><th>Who</th><th>What</th><th>Answer</th></tr></thead>
		<tbody>
			{#each data.requestList.answered as request (request.id)}
				<tr
					><td class="whitespace-nowrap">{showMoment(request.answeredAt)}</td><td>{request.person}</td><td
						><RequestWords {request} /></td
					><td><b>{STATES[request.state]}</b> by {request.answeredBy}{request.word ? `: ${request.word}` : ''}</td></tr
				>
			{/each}
		</tbody>
	</table>
{/if}
<MessageDrawer bind:id={reading} marking={false} />
