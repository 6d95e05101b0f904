<script lang="ts">
	import DownloadIcon from '@lucide/svelte/icons/download';
	import type { SubmitFunction } from '@sveltejs/kit';
	import { enhance } from '$lib/enhance.ts';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import DidYouMean from '$lib/components/forms/DidYouMean.svelte';
	import MessageSheet from '$lib/components/sheet/MessageSheet.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import MailboxPicker from '$lib/components/frames/MailboxPicker.svelte';
	import SavedSearches from '$lib/components/forms/SavedSearches.svelte';
	import SaveSearch from '$lib/components/forms/SaveSearch.svelte';
	import SearchBox from '$lib/components/forms/SearchBox.svelte';
	import type { DocketOutcome } from '$lib/server/docket/index.ts';
	import type { MessagesPage } from '$lib/server/web/messages-page.ts';
	import { showDate } from '../../core/calendar.ts';
	import { leftSentence } from '../../core/docket/left.ts';
	import { showMessages } from '../../core/weigh/units.ts';

	let { data, form } = $props();

	const answer = $derived(
		form as {
			message?: string;
			restored?: { restored: number; left: DocketOutcome['left']; unknown: number };
			mine?: { mailbox: string; folder: string; messages: number; already: number };
			asked?: number;
			saved?: string;
		} | null
	);

	type Hit = MessagesPage['hits'][number];

	let busy = $state(false);
	/* The messages to be requested. */
	let asking = $state<number[]>([]);

	/* Messages in folders need no restoring. */
	const toRestore = (hits: readonly Hit[]) => hits.filter((hit) => hit.restorable && hit.state !== 'live');
	const toAsk = (hits: readonly Hit[]) => hits.filter((hit) => !hit.restorable && hit.state !== 'live');

	const question = $derived(data.question);
	$effect(() => {
		void question;
		asking = [];
	});

	function go(change: Record<string, string | undefined>, replace = false) {
		const address = new URL(page.url);
		address.searchParams.delete('page');
		for (const [name, value] of Object.entries(change))
			if (value === undefined || value === '') address.searchParams.delete(name);
			else address.searchParams.set(name, value);
		void goto(address, { keepFocus: true, noScroll: true, replaceState: replace });
	}
	const search = (q: string, done: boolean) => go({ q, typing: done ? undefined : '1' }, !done);

	const submit: SubmitFunction = () => {
		busy = true;
		return async ({ result, update }) => {
			await update({ reset: false });
			busy = false;
			if (result.type !== 'failure') asking = [];
		};
	};
</script>

<svelte:head><title>{data.asked.q ? `${data.asked.q} – Find` : 'Find'} – Kovrel</title></svelte:head>

{#snippet numbers(hits: readonly Hit[])}
	{#each hits as { id } (id)}<input type="hidden" name="id" value={id} />{/each}
{/snippet}

{#snippet actions(hits: readonly Hit[])}
	{@const back = toRestore(hits)}
	{@const mine = hits.filter(({ restorable }) => restorable)}
	{@const ask = toAsk(hits)}
	{#if hits.length === 0}
		<p class="text-sm" role="status">Select rows to restore or download them.</p>
	{:else}
		<b>{showMessages(hits.length)} selected</b>
		{#if back.length > 0}
			<form method="post" action="?/restore" use:enhance={submit}>
				{@render numbers(back)}
				<button class="act text-sm" disabled={busy}
					>Restore {back.length === 1 ? 'it' : showMessages(back.length)} to where {back.length === 1 ? 'it' : 'they'} came
					from</button
				>
			</form>
		{/if}
		{#if mine.length > 0}
			{#each data.reach.own as mailbox (mailbox.id)}
				<form method="post" action="?/mine" use:enhance={submit}>
					{@render numbers(mine)}
					<input type="hidden" name="own" value={mailbox.id} />
					<button class="quiet text-sm" disabled={busy}>Put a copy into {mailbox.name}</button>
				</form>
			{/each}
		{/if}
		{#if ask.length > 0}
			<button class="quiet text-sm" type="button" onclick={() => (asking = ask.map(({ id }) => id))}
				>Ask an administrator to restore {ask.length === 1 ? 'it' : showMessages(ask.length)} …</button
			>
		{/if}
		<form method="post" action="/export" class="flex items-center gap-1">
			{@render numbers(hits)}
			<label class="text-sm"
				>Download as
				<select class="field py-0.5 text-sm" name="format">
					<option value="eml">EML files</option>
					<option value="mbox">an mbox</option>
				</select></label
			>
			<button class="quiet text-sm"><DownloadIcon size={14} aria-hidden="true" /> Download</button>
		</form>
	{/if}
{/snippet}

<main class="px-3 sm:px-5 py-5">
	{#if data.sheet || data.refused}<h1 class="sr-only">Messages found</h1>{/if}
	<SearchBox value={data.asked.q} onSearch={search} />
	{#if data.mailboxes.length > 1}<div class="mt-2"><MailboxPicker selected={data.selected} /></div>{/if}
	<div class="mt-1 flex min-h-8 items-center justify-between gap-4">
		<p class="text-ink-soft text-sm">Words are enough. <a class="lead" href="/find/help">Search syntax</a></p>
		{#if data.sheet}<SaveSearch question={data.question} />{/if}
	</div>

	<div class="mt-3 flex flex-col gap-2">
		<Refused message={data.refused ?? (data.sheet ? undefined : answer?.message)} />
		{#if answer?.restored}
			<p class="border-stamp bg-stamp-soft border-l-4 px-3 py-2" role="status" data-testid="restored">
				{#if answer.restored.restored === 0}Nothing was restored.{:else}{showMessages(answer.restored.restored)} restored
					to where {answer.restored.restored === 1 ? 'it' : 'they'} came from.{/if}
				{#each answer.restored.left as entry, at (at)}
					{leftSentence(entry)}{/each}
				{#if answer.restored.unknown > 0}You may not restore {showMessages(answer.restored.unknown)}: ask an
					administrator.{/if}
			</p>
		{:else if answer?.mine}
			<p class="border-stamp bg-stamp-soft border-l-4 px-3 py-2" role="status">
				{showMessages(answer.mine.messages)} put into {answer.mine.mailbox}, folder {answer.mine
					.folder}{#if answer.mine.already > 0};
					{showMessages(answer.mine.already)} had been put there before{/if}. The originals stay where they are.
			</p>
		{:else if answer?.asked}
			<p class="border-stamp bg-stamp-soft border-l-4 px-3 py-2" role="status">
				Your request was sent. The answer comes under <a class="lead" href="/find/requests">My requests</a>.
			</p>
		{:else if answer?.saved}
			<p role="status">The search is saved as <b>{answer.saved}</b>.</p>
		{/if}
	</div>

	{#if asking.length > 0}
		<form method="post" action="?/ask" use:enhance={submit} class="bg-sheet border-rule-strong my-3 border p-3">
			{#each asking as id (id)}<input type="hidden" name="id" value={id} />{/each}
			<label class="flex flex-col gap-1"
				>Why do you need {asking.length === 1 ? 'this message' : `these ${showMessages(asking.length)}`}? An
				administrator reads this and answers.
				<!-- svelte-ignore a11y_autofocus -->
				<textarea class="field" name="because" rows="2" maxlength="2000" required autofocus></textarea></label
			>
			<div class="mt-2 flex gap-2">
				<button class="act" disabled={busy}>Ask for {showMessages(asking.length)}</button>
				<button class="quiet" type="button" onclick={() => (asking = [])}>Not now</button>
			</div>
		</form>
	{/if}

	{#if !data.sheet && !data.refused}
		<div class="mt-4 grid gap-8 *:min-w-0 lg:grid-cols-[minmax(0,1fr)_22rem]">
			<section aria-label="Mailboxes you can search">
				<h1 class="mb-2">Find mail</h1>
				{#if data.reach.everywhere}
					<p>You can search all mailboxes.</p>
				{:else if data.reach.own.length + data.reach.grants.length === 0}
					<p>
						You cannot search any mailbox yet. An administrator gives you access, or you <a
							class="lead"
							href="/find/requests">ask for it</a
						>.
					</p>
				{:else}
					<p class="mb-1">You can search:</p>
					<ul class="list-inside list-disc">
						{#each data.reach.own as { id, name } (id)}<li><b>{name}</b>, your own: to find and restore</li>{/each}
						{#each data.reach.grants as grant, n (n)}
							<li>
								<b>{grant.mailbox}</b>{grant.folder ? `, folder ${grant.folder} and below` : ''}: to {[
									grant.mayFind && 'find',
									grant.mayRestore && 'restore'
								]
									.filter(Boolean)
									.join(' and ')}{grant.until ? `, until ${showDate(grant.until)}` : ''}
							</li>
						{/each}
					</ul>
					<p class="mt-2">
						Not found here? <a class="lead" href="/find/requests">Ask for access</a>.
					</p>
				{/if}
			</section>
			<section aria-label="Saved searches">
				<h2 class="mb-1">Saved searches</h2>
				<SavedSearches saved={data.saved} address="/find" />
			</section>
		</div>
	{:else if data.sheet}
		<MessageSheet sheet={data.sheet} answer={answer?.message ? { message: answer.message } : null} {actions}>
			{#snippet empty()}
				{data.reach.everywhere ? 'No message matches.' : 'No message that you may see matches.'}
				<DidYouMean nearly={data.nearly} onSearch={(query) => search(query, true)} />
				<p class="text-ink-soft mt-2 text-sm">
					Fewer words find more.
					{#if !data.reach.everywhere}Is it in a mailbox that you may not see?
						<a class="lead" href="/find/requests">Ask for access</a>.{/if}
				</p>
			{/snippet}
		</MessageSheet>
	{/if}
</main>
