<script lang="ts">
	import BarChart from '$lib/components/charts/BarChart.svelte';
	import MailboxPicker from '$lib/components/frames/MailboxPicker.svelte';
	import type { DueLine } from '$lib/server/retention/index.ts';
	import { daysBetween, showDate, showMonth } from '../../core/calendar.ts';
	import { ACTION_WORDS } from '../../core/retention/sentences.ts';
	import { showBytes, showCount, showMessages } from '../../core/weigh/units.ts';

	let { data } = $props();

	const overview = $derived(data.overview);
	const isNow = (line: DueLine) => line.date.length > 7 && line.date <= overview.today;
	const sum = (lines: DueLine[]) => lines.reduce((n, { messages }) => n + messages, 0);

	/* By day for a fortnight, then by month; mail already due comes first. */
	const parts = $derived([
		{ name: 'Due now', lines: overview.lines.filter(isNow), isOpen: true },
		{
			name: 'In the next fortnight',
			lines: overview.lines.filter((line) => line.date.length > 7 && !isNow(line)),
			isOpen: true
		},
		{ name: 'After that, month by month', lines: overview.lines.filter(({ date }) => date.length === 7), isOpen: false }
	]);
	const totals = $derived({
		archive: sum(parts[0]?.lines.filter(({ disposition }) => disposition === 'archive') ?? []),
		destroy: sum(parts[0]?.lines.filter(({ disposition }) => disposition === 'destroy') ?? []),
		review: sum(parts[0]?.lines.filter(({ disposition }) => disposition === 'review') ?? [])
	});

	/* Told apart by pattern and word. */
	const CHARTED = [
		{ action: 'archive', name: 'archive', fill: 'solid', ink: '--bar' },
		{ action: 'destroy', name: 'destroy', fill: 'hatched', ink: '--wax' },
		{ action: 'review', name: 'review', fill: 'dotted', ink: '--ink-soft' }
	] as const;
	const DONE = { archive: 'archived', destroy: 'destroyed', review: 'reviewed' };
	const dueNowSentence = $derived.by(() => {
		const some = CHARTED.filter(({ action }) => totals[action] > 0).map(
			({ action }) => `${showMessages(totals[action])} to be ${DONE[action]}`
		);
		return some.length === 0 ? 'Nothing is due today.' : `Due now: ${some.join(', ')}.`;
	});

	const when = (date: string) => (date.length > 7 ? showDate(date) : showMonth(date));

	const addressOf = ({ mailboxId, date, disposition, retentionId, folderId }: DueLine) =>
		`/retain/due?of=${mailboxId}&date=${date}&action=${disposition}&retention=${retentionId}&place=${folderId}`;
	const SHOWN = 40;
	let showsAll = $state(false);
</script>

<svelte:head><title>Due – Kovrel</title></svelte:head>

<div class="mb-2 flex flex-wrap items-end justify-between gap-4">
	<div>
		<h1>Due mail</h1>
		<p class="mt-0.5 max-w-3xl" data-testid="due-now">
			{#if overview.lines.length === 0}
				Nothing is due in the next two years.
			{:else}
				{dueNowSentence} Nothing happens unless <a class="lead" href="/retain/run">the scheduled run</a> is switched on, or
				you decide.
			{/if}
		</p>
	</div>
	{#if data.mailboxes.length > 1}<MailboxPicker selected={data.selected} />{/if}
</div>
{#if overview.isBeingApplied}
	<p class="wrong mb-2" role="status">
		Settings were changed and are still being applied: some figures are not up to date.
	</p>
{/if}

{#if overview.lines.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		Mail falls due once a period is set: <a class="lead" href="/retain/schedule">make a schedule</a>, then
		<a class="lead" href="/retain/folders">set it for folders</a>.
	</p>
{:else}
	<div class="bg-sheet border-rule-strong mb-3 flex flex-wrap gap-x-6 gap-y-2 border p-3">
		<dl class="flex shrink-0 flex-col justify-center gap-1.5" aria-label="Due now" data-testid="now">
			{#each CHARTED as { action, name } (action)}
				<div>
					<dt class="text-ink-soft text-xs">to {name} now</dt>
					<dd class="text-lg font-semibold" class:text-wax={action === 'destroy' && totals[action] > 0}>
						{showCount(totals[action])}
					</dd>
				</div>
			{/each}
		</dl>
		<div class="min-w-64 flex-1">
			<BarChart
				labels={overview.months.map(({ month }) => showMonth(month))}
				series={CHARTED.map(({ action, name, fill, ink }) => ({
					name,
					fill,
					ink,
					values: overview.months.map((month) => month[action])
				}))}
				isStacked
				label="Messages that fall due in the next 24 months, by what happens to them; the tables below have the numbers"
				show={showCount}
			/>
		</div>
	</div>
	{#each parts as { name, lines, isOpen } (name)}
		{#if lines.length > 0}
			{@const isOpenAtFirst = isOpen}
			<details bind:open={() => isOpenAtFirst, () => undefined} class="mb-3">
				<summary class="cursor-pointer"><b>{name}</b>: {showMessages(sum(lines))}</summary>
				<table class="sheet mt-1 table-fixed">
					<thead
						><tr
							><th class="w-44">When</th><th class="w-24">What</th><th class="w-64">Series or period</th><th>Mailbox</th
							><th>Folder</th><th class="number w-32">Messages</th><th class="number w-24">Size</th></tr
						></thead
					>
					<tbody>
						{#each showsAll ? lines : lines.slice(0, SHOWN) as line (`${line.date} ${line.disposition} ${line.retentionId} ${line.mailboxId} ${line.folderId}`)}
							<tr>
								<td class="whitespace-nowrap"
									>{isNow(line) ? 'now' : when(line.date)}{#if line.date.length > 7 && !isNow(line)}<span
											class="text-ink-soft ml-1.5 text-xs"
										>
											in {daysBetween(overview.today, line.date)}
											{daysBetween(overview.today, line.date) === 1 ? 'day' : 'days'}</span
										>{/if}</td
								>
								<td class:text-wax={line.disposition === 'destroy'} class="font-semibold"
									>{ACTION_WORDS[line.disposition]}</td
								>
								<td>{line.series === 'bin' ? 'the bin' : line.series || line.terms}</td>
								<td class="name">{line.mailbox}</td>
								<td class="max-w-60 truncate" title={line.folder}
									>{#if line.folderId > 0}<a class="lead" href="/m/{line.mailboxId}/folders/{line.folderId}"
											>{line.folder}</a
										>{:else}{line.folder}{/if}</td
								>
								<td class="number">
									{#if line.series === 'bin'}
										<a class="lead" href="/m/{line.mailboxId}/clear/bin">{showMessages(line.messages)}</a>
									{:else}
										<a class="lead" href={addressOf(line)}>{showMessages(line.messages)}</a>
									{/if}
								</td>
								<td class="number">{showBytes(line.bytes)}</td>
							</tr>
						{/each}
					</tbody>
				</table>
				{#if lines.length > SHOWN && !showsAll}
					<button class="quiet mt-1 text-sm" type="button" onclick={() => (showsAll = true)}
						>Show all {showCount(lines.length)} rows</button
					>
				{/if}
			</details>
		{/if}
	{/each}
	{#if overview.held > 0}
		<p class="mb-2">
			{showMessages(overview.held)} of these {overview.held === 1 ? 'is' : 'are'} under a
			<a class="lead" href="/retain/holds">hold</a>, and {overview.held === 1 ? 'stays' : 'stay'}.
		</p>
	{/if}
	{#if overview.neverArchived > 0}
		<p class="mb-2">
			{showMessages(overview.neverArchived)} due to be archived {overview.neverArchived === 1 ? 'is' : 'are'} set never to
			be archived, and {overview.neverArchived === 1 ? 'stays' : 'stay'}.
		</p>
	{/if}
{/if}
{#if overview.pauses.length > 0}
	<h2 class="mt-4 mb-1">Pauses</h2>
	<table class="sheet">
		<thead><tr><th>Until</th><th>Mailbox</th><th>What</th><th>Because</th><th>By</th></tr></thead>
		<tbody>
			{#each overview.pauses as pause (pause.id)}
				<tr
					><td class="whitespace-nowrap">{showDate(pause.until)}</td><td>{pause.mailbox}</td><td
						>{pause.folder ?? 'single messages'}</td
					><td>{pause.because}</td><td>{pause.madeBy}</td></tr
				>
			{/each}
		</tbody>
	</table>
{/if}
