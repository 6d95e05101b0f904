<script lang="ts">
	import DateField from '$lib/components/forms/DateField.svelte';
	import { enhance } from '$lib/enhance.ts';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import StateMark from '$lib/components/message/StateMark.svelte';
	import { showMoment } from '$lib/moments.ts';
	import type { DocketOutcome } from '$lib/server/docket/index.ts';
	import type { DueItem, DueLine } from '$lib/server/retention/index.ts';
	import { daysBetween, showDate, showMonth } from '../../core/calendar.ts';
	import { leftSentence } from '../../core/docket/left.ts';
	import { showBytes, showCount, showMessages } from '../../core/weigh/units.ts';

	let { data, form } = $props();

	const answer = $derived(form as { message?: string; decided?: DocketOutcome; asked?: number } | null);
	const view = $derived(data.view);
	const lines = $derived(view?.due.lines ?? []);
	let opened = $state.raw<DueLine>();
	let items = $state.raw<DueItem[]>([]);
	let total = $state(0);
	let selected = $state<number[]>([]);
	/* As they are stored, and as they are said. */
	const LOOKS: Record<string, string> = { 'kept a copy of': 'downloaded', 'found words in': 'read lines of' };
	let what = $state('keep');
	let reading = $state<number>();
	let wrong = $state<string>();

	const ACTION_WORDS = { destroy: 'to be destroyed', archive: 'to be archived', review: 'to be reviewed' } as const;
	const when = (date: string) => (date.length === 7 ? showMonth(date) : showDate(date));
	const isNow = (date: string) => date.length > 7 && date <= (view?.due.today ?? '');
	const keyOf = (line: DueLine) => `${line.date} ${line.disposition} ${line.retentionId} ${line.folderId}`;

	const SHOWN = 100;
	async function openLine(line: DueLine) {
		opened = line;
		items = [];
		selected = [];
		wrong = undefined;
		const asked = new URLSearchParams({
			mailboxId: String(line.mailboxId),
			action: line.disposition,
			date: line.date,
			retentionId: String(line.retentionId),
			folderId: String(line.folderId),
			limit: String(SHOWN)
		});
		const response = await fetch(`/own/items?${asked}`).catch(() => undefined);
		const body = (await response?.json().catch(() => undefined)) as
			{ items: DueItem[]; total: number; message?: string } | undefined;
		if (response?.ok && body) ({ items, total } = body);
		else wrong = body?.message ?? 'The server does not answer.';
	}
	const toggle = (id: number) =>
		(selected = selected.includes(id) ? selected.filter((other) => other !== id) : [...selected, id]);
</script>

<svelte:head><title>My mailbox – Kovrel</title></svelte:head>

<main class="px-3 sm:px-5 py-4">
	{#if !view}
		<h1 class="mb-2">My mailbox</h1>
		<p class="bg-sheet border-rule-strong max-w-3xl border p-5">
			You own no mailbox. For the owner of one, this page shows which mail is due and when, lets them keep what they
			still need, and shows who else opened its messages. An administrator sets the owner of a mailbox.
		</p>
	{:else}
		<div class="flex items-start justify-between gap-6">
			<div>
				<h1>Mail due in {view.mailbox.name}</h1>
				<p class="mt-1 max-w-3xl">
					Day by day for two weeks, then by month; each row says why. To keep mail that you still need, open its number.
					<a class="lead" href="/own/policy">The whole policy on one page</a>
				</p>
			</div>
		</div>
		{#if view.review}
			{@const { id, messages, until, because, askedBy, answeredOn } = view.review}
			<section class="border-stamp bg-stamp-soft my-2 border-l-4 px-3 py-2" aria-label="Review">
				<p>
					<b>{askedBy} asks you to review {showMessages(messages)} by {showDate(until)}.</b>
					{because}. None of it is archived or destroyed before that day. Keep what you still need; the rest goes as the
					rows below say.
				</p>
				<div class="mt-1 flex items-center gap-3">
					{#if view.mailbox.tidies}<a class="lead" href="/own/mail?mailbox={view.mailbox.id}&review={id}">Review it</a
						>{/if}
					{#if answeredOn}<span class="text-sm">You answered on {showDate(answeredOn)} that you have reviewed it.</span
						>{:else}
						<form method="post" action="?/reviewed" use:enhance>
							<input type="hidden" name="id" value={id} />
							<button class="quiet text-sm">I have reviewed it</button>
						</form>{/if}
				</div>
			</section>
		{/if}
		<div class="my-2">
			<Refused message={answer?.message ?? wrong} />
			{#if answer?.asked}
				<p class="border-stamp bg-stamp-soft border-l-4 px-3 py-2" role="status">
					Your request was sent. The answer comes under <a class="lead" href="/find/requests">My requests</a>.
				</p>
			{:else if answer?.decided}
				<p class="border-stamp bg-stamp-soft border-l-4 px-3 py-2" role="status">
					Done for {showMessages(answer.decided.messages)}.
					{#each answer.decided.left as entry, at (at)}
						{leftSentence(entry)}{/each}
				</p>
			{/if}
		</div>
		{#if lines.length === 0}
			<p class="bg-sheet border-rule-strong border p-5">
				Nothing is due in the next two years with the present settings.
			</p>
		{:else}
			<table class="sheet">
				<thead
					><tr
						><th>When</th><th>Due</th><th>Because</th><th>Folder</th><th class="number">Messages</th><th class="number"
							>Size</th
						></tr
					></thead
				>
				<tbody>
					{#each lines as line (keyOf(line))}
						<tr aria-current={opened && keyOf(opened) === keyOf(line) ? 'true' : undefined}>
							<td class="whitespace-nowrap"
								>{isNow(line.date) ? 'now' : when(line.date)}{#if line.date.length > 7 && !isNow(line.date)}<span
										class="text-ink-soft ml-1.5 text-xs">in {daysBetween(view.due.today, line.date)} days</span
									>{/if}</td
							>
							<td class="font-semibold whitespace-nowrap" class:text-wax={line.disposition === 'destroy'}
								>{ACTION_WORDS[line.disposition]}</td
							>
							<td class="text-sm"
								>{line.series && line.series !== 'bin' ? `Series ${line.series}: ` : ''}{line.terms}</td
							>
							<td class="max-w-60 truncate" title={line.folder}>{line.folder}</td>
							<td class="number">
								{#if line.series === 'bin'}{showMessages(line.messages)}{:else}<button
										class="lead"
										type="button"
										onclick={() => openLine(line)}>{showMessages(line.messages)}</button
									>{/if}
							</td>
							<td class="number">{showBytes(line.bytes)}</td>
						</tr>
						{#if opened && keyOf(opened) === keyOf(line)}
							<tr>
								<td colspan="6" class="bg-paper p-3!">
									<form
										method="post"
										action="?/decide"
										use:enhance={() =>
											async ({ update }) => {
												await update({ reset: false });
												opened = undefined;
											}}
									>
										<ul class="border-rule-strong bg-sheet max-h-72 overflow-auto border" aria-label="Messages">
											{#each items as item (item.id)}
												<li class="border-rule flex items-baseline gap-3 border-b px-2 py-0.5">
													<input
														type="checkbox"
														name="id"
														value={item.id}
														aria-label="Select {item.subject || '(no subject)'}"
														checked={selected.includes(item.id)}
														onchange={() => toggle(item.id)}
													/>
													<span class="w-24 text-sm whitespace-nowrap"
														>{item.receivedOn ? showDate(item.receivedOn) : 'undated'}</span
													>
													<button
														class="lead min-w-0 flex-1 truncate text-left"
														type="button"
														onclick={() => (reading = item.id)}>{item.subject || '(no subject)'}</button
													>
													<span class="text-ink-soft w-56 truncate text-sm">{item.fromName || item.fromAddress}</span>
												</li>
											{:else}<li class="px-2 py-1" role="status">Opening …</li>
											{/each}
										</ul>
										<div class="mt-2 flex flex-wrap items-end gap-3 text-sm">
											<button
												class="quiet"
												type="button"
												onclick={() => (selected = selected.length === items.length ? [] : items.map(({ id }) => id))}
												>{selected.length === items.length
													? 'Clear selection'
													: `Select these ${showCount(items.length)}`}</button
											>
											<label class="flex flex-col gap-1"
												>Decision on {showMessages(selected.length)}
												<select class="field" name="what" bind:value={what}>
													<option value="keep">kept: nothing archives or deletes them by itself</option>
													<option value="pause">not deleted before a day</option>
													<option value="retain">destroyed so many years after they came</option>
													<option value="classify">another class</option>
													<option value="ask">asked for: an administrator decides</option>
												</select></label
											>
											{#if what === 'pause'}<label class="flex flex-col gap-1"
													>Until <DateField name="until" required /></label
												>{/if}
											{#if what === 'retain'}<label class="flex flex-col gap-1"
													>Years <input
														class="field w-20"
														type="number"
														name="years"
														min="1"
														max="100"
														value="7"
														required
													/></label
												>{/if}
											{#if what === 'classify'}<label class="flex flex-col gap-1"
													>Class <select class="field" name="class"
														>{#each data.classes as { word, name } (word)}<option value={word}>{name}</option
															>{/each}</select
													></label
												>{/if}
											{#if what !== 'keep'}<label class="flex flex-1 flex-col gap-1"
													>Because <input class="field" name="because" maxlength="1000" required /></label
												>{/if}
											<button class="act" disabled={selected.length === 0}
												>Do that for {showMessages(selected.length)}</button
											>
										</div>
										{#if total > items.length}<p class="text-ink-soft mt-1 text-sm">
												These are the first {showCount(items.length)} of {showCount(total)}.
											</p>{/if}
									</form>
								</td>
							</tr>
						{/if}
					{/each}
				</tbody>
			</table>
			{#if view.due.held > 0}<p class="mt-2">
					{showMessages(view.due.held)} of these {view.due.held === 1 ? 'is' : 'are'} under a hold, and {view.due
						.held === 1
						? 'stays'
						: 'stay'}.
				</p>{/if}
		{/if}

		<h2 class="mt-6 mb-1">Who opened its messages</h2>
		{#if view.looks.length === 0}
			<p class="text-ink-soft">Nobody but you has opened a message in it.</p>
		{:else}
			<table class="sheet">
				<thead><tr><th>When</th><th>Who</th><th>What</th><th>Message</th></tr></thead>
				<tbody>
					{#each view.looks as look (look.id)}
						<tr
							><td class="whitespace-nowrap">{showMoment(look.at)}</td><td>{look.who}</td><td class="whitespace-nowrap"
								>{LOOKS[look.what] ?? look.what}</td
							><td
								>{#if look.itemId < 0}messages that a search found{:else if look.state === null}a message that was
									destroyed since{:else}<button class="lead" type="button" onclick={() => (reading = look.itemId)}
										>{look.subject || '(no subject)'}</button
									>
									<StateMark state={look.state} />{/if}</td
							></tr
						>
					{/each}
				</tbody>
			</table>
		{/if}
	{/if}
</main>
<MessageDrawer bind:id={reading} marking={false} />
