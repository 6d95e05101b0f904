<script lang="ts">
	import ListDecisions from '$lib/components/message/ListDecisions.svelte';
	import MessageSheet from '$lib/components/sheet/MessageSheet.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { fromNowOnHref } from '$lib/from-now-on.ts';
	import { showDate } from '../../../../../core/calendar.ts';
	import { WAY_NAMES } from '../../../../../core/lists/ways.ts';
	import { showBytes, showCount, showMessages } from '../../../../../core/weigh/units.ts';

	let { data, form } = $props();

	const { list } = $derived(data.list);
	const hostOf = (url: string) => (URL.canParse(url) ? new URL(url).hostname : url);
</script>

<svelte:head><title>{list.name} – Lists – Kovrel</title></svelte:head>

<nav class="text-sm" aria-label="Where this is">
	<a class="lead" href="/m/{data.mailboxId}/lists?all=1">All lists</a>
</nav>
<h1>{list.name}</h1>
<div class="mt-1 mb-2 flex flex-col gap-2">
	<dl class="grid grid-cols-[7rem_1fr] gap-x-3 gap-y-0.5 text-sm">
		<dt class="text-ink-soft">Known as</dt>
		<dd class="break-all">{list.identifier}</dd>
		<dt class="text-ink-soft">Wrote</dt>
		<dd>
			{showMessages(list.messages)} ({showBytes(list.bytes)}) from {list.first ? showDate(list.first) : 'long ago'} to
			{list.last ? showDate(list.last) : 'now'}, from {showCount(list.addresses)}
			{list.addresses === 1 ? 'address' : 'addresses'}; in {list.mailboxes.join(', ')}
		</dd>
		<dt class="text-ink-soft">Sender</dt>
		<dd>
			{list.known ? 'Known: somebody here has written to them, or it is trusted.' : 'A stranger.'}
			{list.verdictSentence}
		</dd>
		<dt class="text-ink-soft">Advice</dt>
		<dd>
			<span class="font-semibold">{data.list.advice}</span>
			<a class="lead ml-2" href={fromNowOnHref(data.mailboxId, { listId: list.id })}>Make a standing decision …</a>
		</dd>
	</dl>
	<section aria-labelledby="ways">
		<h2 id="ways" class="text-base">Ways to unsubscribe</h2>
		{#if data.list.ways.length === 0}<p class="text-sm">It does not say.</p>{/if}
		<ol class="mt-0.5 list-inside list-decimal text-sm">
			{#each data.list.ways as way (way.kind)}
				<li class="[overflow-wrap:anywhere]">
					<b>{WAY_NAMES[way.kind]}</b>:
					{#if way.kind === 'mail'}
						to {way.to}, subject “{way.subject || 'unsubscribe'}”{#if way.body}, text “{way.body}”{/if}
					{:else if way.kind === 'footer'}
						“{way.sentence}”{#if way.target}, which leads to <b>{hostOf(way.target)}</b>{/if}
					{:else if way.kind === 'link'}
						<a class="lead" href={way.url} target="_blank" rel="noopener noreferrer nofollow external">{way.url}</a>,
						which leads to <b>{hostOf(way.url)}</b>
					{:else}
						a request to <b>{hostOf(way.url)}</b>: {way.url}
					{/if}
				</li>
			{/each}
		</ol>
		{#if data.list.noClick && data.list.ways.length > 0}<p class="text-ink-soft text-xs">
				Not by one request: {data.list.noClick}.
			</p>{/if}
	</section>
	{#if data.list.attempts.length > 0}
		<section aria-labelledby="attempts">
			<h2 id="attempts" class="text-base">Attempts so far</h2>
			<ul class="text-sm">
				{#each data.list.attempts as attempt (attempt.id)}
					<li>
						{showDate(attempt.on)}, {WAY_NAMES[attempt.way]}, by {attempt.who}: {attempt.state.replace(
							'-',
							' '
						)}{attempt.answer ? ` (${attempt.answer})` : ''}
					</li>
				{/each}
			</ul>
		</section>
	{/if}
	<ListDecisions mailboxId={data.mailboxId} listId={list.id} />
</div>
{#if data.sheet}
	<MessageSheet sheet={data.sheet} answer={form}>
		{#snippet empty()}No message of this list matches.{/snippet}
	</MessageSheet>
{:else}<Refused message={data.refused} />{/if}
