<script lang="ts">
	import BookmarkIcon from '@lucide/svelte/icons/bookmark';
	import DownloadIcon from '@lucide/svelte/icons/download';
	import type { SubmitFunction } from '@sveltejs/kit';
	import { enhance } from '$app/forms';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import FileLinks from '$lib/components/message/FileLinks.svelte';
	import Marked from '$lib/components/message/Marked.svelte';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import PageTurner from '$lib/components/sheet/PageTurner.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import SearchBox from '$lib/components/forms/SearchBox.svelte';
	import StateMark from '$lib/components/message/StateMark.svelte';
	import type { DocketOutcome } from '$lib/server/docket/index.ts';
	import { showDate } from '../../core/calendar.ts';
	import { leftSentence } from '../../core/docket/left.ts';
	import type { Choice, Narrowing } from '../../core/search/narrowing.ts';
	import { showCount, showMessages } from '../../core/weigh/units.ts';

	let { data, form } = $props();

	const answer = $derived(
		form as {
			message?: string;
			restored?: { restored: number; left: DocketOutcome['left']; unknown: number };
			mine?: { mailbox: string; folder: string; messages: number; already: number };
			asked?: number;
			kept?: string;
		} | null
	);

	let selected = $state<number[]>([]);
	let open = $state<number>();
	let busy = $state(false);
	/* The messages to be requested. */
	let asking = $state<number[]>([]);

	const hits = $derived(data.found?.hits ?? []);
	const pages = $derived(Math.ceil((data.found?.total ?? 0) / data.pageSize));
	const question = $derived(page.url.searchParams.toString().replace(/(^|&)(page|typing)=[^&]*/g, ''));
	const restorable = $derived(new Set(hits.filter((hit) => hit.restorable).map(({ id }) => id)));
	const toRestore = $derived(
		selected.filter((id) => restorable.has(id) && hits.find((hit) => hit.id === id)?.state !== 'live')
	);
	// live messages need no restoring
	const toAsk = $derived(
		selected.filter((id) => !restorable.has(id) && hits.find((hit) => hit.id === id)?.state !== 'live')
	);

	// another search clears the selection
	$effect(() => {
		void question;
		selected = [];
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

	const TITLES: [keyof Narrowing, string][] = [
		['who', 'Who wrote it'],
		['year', 'When'],
		['folder', 'Folder'],
		['tag', 'Tag'],
		['file', 'Attached'],
		['mailbox', 'Mailbox']
	];
	const FILE_NAMES: Record<string, string> = {
		any: 'with a file',
		pdf: 'PDF',
		sheet: 'spreadsheet',
		packed: 'archive (zip …)'
	};
	/* With a single mailbox its name is not repeated beside each folder. */
	function plainly(of: keyof Narrowing, choices: Choice[]): Choice[] {
		const only = data.choices?.mailbox.length === 1 ? `, ${data.choices.mailbox[0]?.name}` : undefined;
		return of === 'folder' && only
			? choices.map((choice) => ({ ...choice, name: choice.name.replace(only, '') }))
			: choices;
	}
	const SHOWN = 6;
	let wide = $state<string>();

	const submit: SubmitFunction = () => {
		busy = true;
		return async ({ result, update }) => {
			await update({ reset: false });
			busy = false;
			open = undefined;
			if (result.type === 'failure') return;
			selected = [];
			asking = [];
		};
	};

	function toggle(id: number) {
		selected = selected.includes(id) ? selected.filter((other) => other !== id) : [...selected, id];
	}

	function onRowKey(event: KeyboardEvent & { currentTarget: HTMLElement }, id: number) {
		if (event.target !== event.currentTarget) return;
		const step = { ArrowDown: 'nextElementSibling', ArrowUp: 'previousElementSibling' }[event.key] as
			'nextElementSibling' | undefined;
		if (event.key === ' ') toggle(id);
		else if (event.key === 'Enter') open = id;
		else if (step) (event.currentTarget[step] as HTMLElement | null)?.focus();
		else return;
		event.preventDefault();
	}
</script>

<svelte:head><title>{data.asked.q ? `${data.asked.q} – Find` : 'Find'} – Kovrel</title></svelte:head>

{#snippet actionsFor(ids: number[], back: number[], ask: number[])}
	{#if back.length > 0}
		<form method="post" action="?/restore" use:enhance={submit}>
			{#each back as id (id)}<input type="hidden" name="id" value={id} />{/each}
			<button class="act text-sm" disabled={busy}
				>Restore {back.length === 1 ? 'it' : showMessages(back.length)} to where {back.length === 1 ? 'it' : 'they'} came
				from</button
			>
		</form>
	{/if}
	{#each data.reach.own as mailbox (mailbox.id)}
		{#if ids.some((id) => restorable.has(id))}
			<form method="post" action="?/mine" use:enhance={submit}>
				{#each ids.filter((id) => restorable.has(id)) as id (id)}<input type="hidden" name="id" value={id} />{/each}
				<input type="hidden" name="own" value={mailbox.id} />
				<button class="quiet text-sm" disabled={busy}>Put a copy into {mailbox.name}</button>
			</form>
		{/if}
	{/each}
	{#if ask.length > 0}
		<button class="quiet text-sm" type="button" onclick={() => ((asking = ask), (open = undefined))}
			>Ask an administrator to restore {ask.length === 1 ? 'it' : showMessages(ask.length)} …</button
		>
	{/if}
{/snippet}

<main class="px-5 py-5">
	{#if data.found || data.refused}<h1 class="sr-only">What was found</h1>{/if}
	<SearchBox value={data.asked.q} onSearch={search} />
	<p class="text-ink-soft mt-1 text-sm">
		Words are enough. <a class="lead" href="/find/help">What else can be written</a>
	</p>

	<div class="mt-3 flex flex-col gap-2">
		<Refused message={data.refused ?? answer?.message} />
		{#if answer?.restored}
			<p class="border-stamp bg-stamp-soft border-l-4 px-3 py-2" role="status" data-testid="restored">
				{#if answer.restored.restored === 0}Nothing was restored.{:else}{showMessages(answer.restored.restored)} restored
					to where {answer.restored.restored === 1 ? 'it' : 'they'} came from.{/if}
				{#each answer.restored.left as entry (entry.reason)}
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
		{:else if answer?.kept}
			<p role="status">The search is kept as <b>{answer.kept}</b>.</p>
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

	{#if !data.found && !data.refused}
		<div class="mt-4 grid grid-cols-[minmax(0,1fr)_22rem] gap-8">
			<section aria-label="Where you find">
				<h1 class="mb-2">Find what was written</h1>
				{#if data.reach.everywhere}
					<p>You find in all mailboxes.</p>
				{:else if data.reach.own.length + data.reach.grants.length === 0}
					<p>
						You may not find in any mailbox yet. An administrator gives you access, or you <a
							class="lead"
							href="/find/requests">ask for it</a
						>.
					</p>
				{:else}
					<p class="mb-1">You find in:</p>
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
						Is what you look for elsewhere? <a class="lead" href="/find/requests">Ask for access</a>.
					</p>
				{/if}
			</section>
			<section aria-label="Searches you keep">
				<h2 class="mb-1">Searches you keep</h2>
				{#each data.saved as saved (saved.id)}
					<form method="post" action="?/forget" use:enhance class="border-rule flex items-center gap-2 border-b py-1">
						<input type="hidden" name="saved" value={saved.id} />
						<a class="lead flex-1 truncate" href="/find?{saved.question}">{saved.name}</a>
						<button class="quiet px-2 py-0 text-sm">Forget</button>
					</form>
				{:else}<p class="text-ink-soft text-sm">
						None yet. Behind a search that you need often, choose “Keep this search”.
					</p>
				{/each}
			</section>
		</div>
	{:else if data.found}
		<div class="grid grid-cols-[13.5rem_minmax(0,1fr)] gap-6">
			<aside aria-label="Narrow it down" class="text-sm">
				{#each TITLES as [of, title] (of)}
					{@const choices = plainly(of, data.choices?.[of] ?? [])}
					{@const now = data.narrowing[of]}
					{#if now !== undefined || choices.length > 1}
						<section class="border-rule border-b py-2" aria-label={title}>
							<h2 class="text-ink-soft mb-0.5 text-sm">{title}</h2>
							{#if now !== undefined}
								<button
									class="bg-stamp-soft flex min-h-[24px] w-full items-center justify-between gap-2 px-1.5 text-left"
									type="button"
									aria-pressed="true"
									title="Take this away"
									onclick={() => go({ [of]: undefined })}
									><b class="truncate"
										>{FILE_NAMES[String(now)] ?? choices.find(({ value }) => value === String(now))?.name ?? now}</b
									><span aria-hidden="true">×</span></button
								>
							{:else}
								{#each wide === of ? choices : choices.slice(0, SHOWN) as choice (choice.value)}
									<button
										class="hover:text-stamp flex min-h-[24px] w-full items-center justify-between gap-2 px-1.5 text-left"
										type="button"
										aria-pressed="false"
										onclick={() => go({ [of]: choice.value })}
										><span class="truncate"
											>{of === 'file' ? (FILE_NAMES[choice.value] ?? choice.name) : choice.name}</span
										><span class="text-ink-soft">{showCount(choice.messages)}</span></button
									>
								{/each}
								{#if choices.length > SHOWN && wide !== of}<button
										class="lead min-h-[24px] px-1.5"
										type="button"
										onclick={() => (wide = of)}>more</button
									>{/if}
							{/if}
						</section>
					{/if}
				{/each}
				{#if data.found.totalIsMore}<p class="text-ink-soft py-2">
						Counted in the first {showCount(data.found.total)}.
					</p>{/if}
			</aside>
			<div class="min-w-0">
				<div class="flex flex-wrap items-center gap-3 pb-2">
					<p role="status" data-testid="total">
						<b>{data.found.totalIsMore ? 'More than ' : ''}{showMessages(data.found.total)}</b> found{#if pages > 1},
							page
							{data.asked.page} of {showCount(pages)}{/if}
					</p>
					<label class="text-sm"
						>Order
						<select
							class="field ml-1 py-0.5"
							value={data.asked.sort}
							onchange={(event) => go({ sort: event.currentTarget.value })}
						>
							<option value="">best first</option>
							<option value="newest">newest first</option>
							<option value="oldest">oldest first</option>
							<option value="sender">by sender</option>
							<option value="subject">by subject</option>
							<option value="largest">largest first</option>
						</select></label
					>
					<form method="post" action="?/keep" use:enhance class="ml-auto flex items-center gap-1">
						<input type="hidden" name="question" value={question} />
						<label class="sr-only" for="keep-as">Name for this search</label>
						<input
							id="keep-as"
							class="field w-40 py-0.5 text-sm"
							name="name"
							maxlength="100"
							required
							placeholder="name for this search"
						/>
						<button class="quiet text-sm"><BookmarkIcon size={14} aria-hidden="true" /> Keep this search</button>
					</form>
				</div>
				{#if hits.length === 0}
					<div class="bg-sheet border-rule-strong border p-5">
						<p>Nothing that you may see has all of this.</p>
						{#each data.nearly as { query } (query)}
							<p class="mt-2">
								Did you mean <button class="lead font-semibold" type="button" onclick={() => search(query, true)}
									>{query}</button
								>?
							</p>
						{/each}
						<p class="text-ink-soft mt-2 text-sm">
							Fewer words find more. Is it in a mailbox that you may not see? <a class="lead" href="/find/requests"
								>Ask for access</a
							>.
						</p>
					</div>
				{:else}
					<div class="flex min-h-9 flex-wrap items-center gap-2 pb-2">
						{#if selected.length === 0}
							<span class="text-ink-soft text-sm">↑ ↓ walk, space selects, Enter opens</span>
						{:else}
							<b>{showMessages(selected.length)} selected</b>
							{@render actionsFor(selected, toRestore, toAsk)}
							<form method="post" action="/export" class="flex items-center gap-1">
								{#each selected as id (id)}<input type="hidden" name="id" value={id} />{/each}
								<label class="sr-only" for="copy-as">Form of the copy</label>
								<select id="copy-as" class="field py-0.5 text-sm" name="format">
									<option value="eml">EML files</option>
									<option value="mbox">an mbox</option>
								</select>
								<button class="quiet text-sm"><DownloadIcon size={14} aria-hidden="true" /> Keep a copy</button>
							</form>
						{/if}
					</div>
					<ol class="bg-sheet border-rule-strong border" aria-label="Messages found">
						{#each hits as hit (hit.id)}
							<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
							<li
								class="border-rule hit grid grid-cols-[1.5rem_6rem_minmax(0,1fr)_minmax(0,11rem)] gap-x-3 border-b px-3 py-1.5 last:border-b-0"
								tabindex="0"
								onkeydown={(event) => onRowKey(event, hit.id)}
							>
								<input
									type="checkbox"
									class="size-4 self-center"
									aria-label="Select {hit.subject || '(no subject)'}"
									checked={selected.includes(hit.id)}
									onchange={() => toggle(hit.id)}
									tabindex="-1"
								/>
								<span class="whitespace-nowrap">{hit.receivedOn ? showDate(hit.receivedOn) : 'undated'}</span>
								<span class="min-w-0">
									<button
										type="button"
										tabindex="-1"
										class="lead block max-w-full truncate text-left font-semibold"
										onclick={() => (open = hit.id)}
										>{#if hit.subject}<Marked stretches={hit.markedSubject} />{:else}(no subject){/if}</button
									>
									<span class="block truncate text-sm"
										><Marked stretches={hit.markedFrom} />
										<span class="text-ink-soft">– <Marked stretches={hit.context} /></span></span
									>
									<FileLinks id={hit.id} files={hit.files} onMore={() => (open = hit.id)} />
								</span>
								<span class="min-w-0 text-sm"
									><StateMark state={hit.state} /><span
										class="text-ink-soft block truncate"
										title="{hit.mailbox}, {hit.origin ?? hit.folder}">{hit.mailbox}, {hit.origin ?? hit.folder}</span
									></span
								>
							</li>
						{/each}
					</ol>
				{/if}
				<PageTurner at={data.asked.page} {pages} />
			</div>
		</div>
	{/if}
</main>

<MessageDrawer bind:id={open} marking={false}>
	{#snippet actions(message)}
		{@render actionsFor(
			[message.id],
			restorable.has(message.id) && message.state !== 'live' ? [message.id] : [],
			restorable.has(message.id) || message.state === 'live' ? [] : [message.id]
		)}
	{/snippet}
</MessageDrawer>

<style>
	.hit:hover {
		background: color-mix(in oklab, var(--stamp-soft) 45%, transparent);
	}
</style>
