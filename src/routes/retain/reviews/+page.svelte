<script lang="ts">
	import DateField from '$lib/components/forms/DateField.svelte';
	import { enhance } from '$lib/enhance.ts';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showDate } from '../../../core/calendar.ts';
	import { showCount, showMessages } from '../../../core/weigh/units.ts';

	let { data, form } = $props();

	const answer = $derived(
		form as { message?: string; asked?: { mailbox: string; owner: string; messages: number }[] } | null
	);
	const standing = ({ isOver, answeredOn }: (typeof data.reviews)[number]) =>
		answeredOn ? `reviewed on ${showDate(answeredOn)}` : isOver ? 'over, unanswered' : 'unanswered';
</script>

<svelte:head><title>Reviews – Kovrel</title></svelte:head>

<h1>Reviews by owners</h1>
<p class="mt-1 mb-3 max-w-3xl">
	Ask the owner of a mailbox to review the mail that is due by a day. The request stands on their page. Until that day
	the schedule neither archives nor destroys any of it.
</p>
<Refused message={answer?.message} />
{#each answer?.asked ?? [] as { mailbox, owner, messages } (mailbox)}
	<p role="status" class="mb-1">{owner} was asked to review {showMessages(messages)} of {mailbox}.</p>
{/each}
{#if data.owners.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		No mailbox has an owner yet. <a class="lead" href="/people">Set owners on the page People</a>.
	</p>
{:else}
	<form
		method="post"
		action="?/ask"
		use:enhance
		class="bg-sheet border-rule-strong mb-4 flex flex-wrap items-end gap-4 border p-3"
	>
		<fieldset>
			<legend class="text-sm font-semibold">Mailboxes</legend>
			{#each data.owners as { mailboxId, mailbox, owner } (mailboxId)}
				<label class="flex items-center gap-1.5"
					><input type="checkbox" name="mailbox" value={mailboxId} />
					{mailbox} ({owner})</label
				>
			{/each}
		</fieldset>
		<label class="flex flex-col gap-1 text-sm font-semibold">By <DateField name="until" required /></label>
		<label class="flex flex-1 flex-col gap-1 text-sm font-semibold"
			>Why, for the owner <input class="field" name="because" maxlength="1000" required /></label
		>
		<button class="act">Ask for the review</button>
	</form>
{/if}
{#if data.reviews.length > 0}
	<table class="sheet">
		<thead
			><tr
				><th>Mailbox</th><th>Owner</th><th>By</th><th>Status</th><th class="number">Messages</th><th class="number"
					>Kept</th
				><th class="number">Changed</th><th class="number">Untouched</th><th><span class="sr-only">End</span></th></tr
			></thead
		>
		<tbody>
			{#each data.reviews as review (review.id)}
				<tr>
					<td>{review.mailbox}</td>
					<td>{review.owner}</td>
					<td class="whitespace-nowrap">{showDate(review.until)}</td>
					<td class:text-wax={!review.answeredOn}>{standing(review)}</td>
					<td class="number"><a class="lead" href="/retain/reviews/{review.id}">{showCount(review.messages)}</a></td>
					<td class="number">{showCount(review.kept)}</td>
					<td class="number">{showCount(review.changed)}</td>
					<td class="number">{showCount(review.messages - review.kept - review.changed)}</td>
					<td class="number"
						>{#if !review.isOver}<form method="post" action="?/end" use:enhance>
								<input type="hidden" name="id" value={review.id} />
								<button class="quiet px-2! py-0! text-sm" aria-label="End the review of {review.mailbox}"
									>End the review</button
								>
							</form>{/if}</td
					>
				</tr>
			{/each}
		</tbody>
	</table>
{/if}
