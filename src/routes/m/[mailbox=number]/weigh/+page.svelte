<script lang="ts">
	import type { Grouping } from '../../../../core/lots/lots.ts';
	import ShareBar from '$lib/components/charts/ShareBar.svelte';
	import { enhance } from '$lib/enhance.ts';
	import { goto } from '$app/navigation';
	import BarChart from '$lib/components/charts/BarChart.svelte';
	import GrowthChart from '$lib/components/charts/GrowthChart.svelte';
	import LargestMessages from '$lib/components/charts/LargestMessages.svelte';
	import FirstStepsCard from '$lib/components/frames/FirstStepsCard.svelte';
	import TryFirst from '$lib/components/frames/TryFirst.svelte';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import WeightTable from '$lib/components/charts/WeightTable.svelte';
	import { isPartition, NAMELESS, WEIGHED_BY_NAMES } from '$lib/weighed-by.ts';
	import { growthSentence } from '../../../../core/weigh/growth.ts';
	import { showBytes, showCount, showMessages, showShare } from '../../../../core/weigh/units.ts';

	let { data, form } = $props();

	const weighing = $derived(data.weighing);
	const mailbox = $derived(weighing.mailbox);
	const growth = $derived(weighing.growth);
	const base = $derived(`/m/${mailbox.id}`);
	const SHOWN = 14;
	let all = $state(false);
	const rows = $derived(all ? weighing.rows : weighing.rows.slice(0, SHOWN));
	let changingQuota = $state(false);
	let changingAddresses = $state(false);
	let open = $state<number>();

	/* The names of the same groupings in Clear. */
	const LOTS: Record<string, Grouping> = {
		year: 'year',
		month: 'month',
		organisation: 'organisation',
		address: 'correspondent',
		list: 'list',
		size: 'size',
		attachment: 'attachment'
	};
	function rowHref(row: (typeof weighing.rows)[number]): string {
		return `${base}/archive?q=${encodeURIComponent(row.query)}`;
	}
</script>

<svelte:head><title>Weigh {mailbox.name} – Kovrel</title></svelte:head>

{#if data.steps}<FirstStepsCard steps={data.steps} />{/if}
{#if data.demo && data.requests > 0 && mailbox.id === data.mailboxes[0]?.id}<TryFirst
		mailboxId={mailbox.id}
		requests={data.requests}
	/>{/if}
<div class="mb-3 flex items-start gap-x-6 gap-y-2 max-md:flex-col">
	<div class="flex-1">
		<h1>{mailbox.name} weighs {showBytes(mailbox.bytes)}</h1>
		<p class="mt-1">
			{showMessages(mailbox.messages)}, {showShare(mailbox.unread, mailbox.messages)} unread{#if mailbox.binned.messages > 0},
				{showCount(mailbox.binned.messages)} in the bin{/if};
			{showCount(mailbox.archived.messages)} more in the archive ({showBytes(mailbox.archived.bytes)}, outside the
			quota).
			{growthSentence(growth)}
		</p>
		{#each weighing.warnings as warning (warning)}<p class="text-wax mt-1 font-semibold" data-testid="warning">
				{warning}
			</p>{/each}
		{#if data.live}<p class="mt-1" data-testid="live">
				Its mail server is {data.live.host}. {data.live.quotaSentence ?? ''}
				<a class="lead" href="/mailboxes/live">{data.live.error ? 'The last check failed.' : 'Live mailboxes'}</a>
			</p>{/if}
		{#if mailbox.ahead.messages > 0}<p class="mt-1" data-testid="ahead">
				{showMessages(mailbox.ahead.messages)} ({showBytes(mailbox.ahead.bytes)})
				{mailbox.ahead.messages === 1 ? 'is' : 'are'} still on its server. Their headers are here, so they are weighed below;
				they can be opened, searched and decided on as they arrive.
			</p>{/if}
		<p class="mt-1" data-testid="advice">{weighing.advice}</p>
	</div>
	<div class="flex flex-col gap-2 text-sm md:items-end">
		{#if changingQuota}
			<form
				method="post"
				action="?/quota"
				class="flex flex-wrap items-end gap-2"
				use:enhance={() =>
					({ update, result }) => {
						if (result.type === 'success') changingQuota = false;
						return update({ reset: false });
					}}
			>
				<label class="flex flex-col gap-1"
					><span>Quota (empty: none)</span>
					<!-- svelte-ignore a11y_autofocus -->
					<input
						class="field w-28"
						name="quota"
						value={mailbox.quotaBytes === undefined ? '' : showBytes(mailbox.quotaBytes)}
						autofocus
					/>
				</label>
				<button class="act">Set</button>
				<button class="quiet" type="button" onclick={() => (changingQuota = false)}>Cancel</button>
			</form>
		{:else if changingAddresses}
			<form
				method="post"
				action="?/addresses"
				class="flex flex-wrap items-end gap-2"
				use:enhance={() =>
					({ update, result }) => {
						if (result.type === 'success') changingAddresses = false;
						return update({ reset: false });
					}}
			>
				<label class="flex flex-col gap-1"
					><span>Addresses of this mailbox, separated by spaces</span>
					<!-- svelte-ignore a11y_autofocus -->
					<input class="field w-96" name="addresses" value={mailbox.addresses.join(' ')} autofocus />
				</label>
				<button class="act">Set</button>
				<button class="quiet" type="button" onclick={() => (changingAddresses = false)}>Cancel</button>
			</form>
		{:else}
			<button class="quiet" type="button" onclick={() => (changingQuota = true)}
				>{mailbox.quotaBytes === undefined ? 'Set a quota' : 'Change the quota'}</button
			>
		{/if}
		{#if !changingQuota && !changingAddresses && mailbox.messages > 0}
			<button class="lead" type="button" onclick={() => (changingAddresses = true)}
				>{mailbox.addresses.length > 0 ? `Addresses: ${mailbox.addresses.join(', ')}` : 'Set its addresses'}</button
			>
		{/if}
		{#if data.mailboxes.length > 1}<a class="lead" href="/weigh">Compare mailboxes</a>{/if}
	</div>
</div>
<Refused message={form?.message} />

{#if mailbox.messages === 0 && mailbox.archived.messages === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		This mailbox is empty. To fill it, <a class="lead" href="/mailboxes">import mail</a>.
	</p>
{:else}
	{#if weighing.suggestions.length > 0}
		<section aria-labelledby="what-frees" class="mb-5">
			<h2 id="what-frees" class="mb-1.5">What would free most</h2>
			<table class="sheet">
				<thead>
					<tr>
						<th>What</th><th class="number">Messages</th><th class="number">Frees</th><th class="w-40"
							>Share of the mailbox</th
						><th class="w-32"><span class="sr-only">Draft</span></th>
					</tr>
				</thead>
				<tbody>
					{#each weighing.suggestions as suggestion (suggestion.what)}
						<tr>
							<td class="name">{suggestion.what}</td>
							<td class="number">{showCount(suggestion.messages)}</td>
							<td class="number font-semibold">{showBytes(suggestion.bytes)}</td>
							<td>
								<ShareBar bytes={suggestion.bytes} whole={mailbox.bytes} strong />
							</td>
							<td class="text-right">
								{#if suggestion.wish === 'empty-bin'}
									<a class="lead whitespace-nowrap" href="{base}/clear/bin">Review it, and empty it</a>
								{:else}
									<form method="post" action="?/draft" use:enhance>
										{#each Object.entries(suggestion.wish) as [name, value] (name)}
											<input type="hidden" {name} {value} />
										{/each}
										<button class="lead whitespace-nowrap" aria-label="Draft a docket: {suggestion.what}"
											>Draft a docket</button
										>
									</form>
								{/if}
							</td>
						</tr>
					{/each}
				</tbody>
			</table>
			<p class="text-ink-soft mt-1 text-xs">One message can be in several of these: the sizes do not add up.</p>
		</section>
	{/if}
	<div class="grid gap-5 *:min-w-0 lg:grid-cols-2">
		<section aria-labelledby="by-folder">
			<h2 id="by-folder" class="mb-2">By folder</h2>
			<table class="sheet">
				<thead>
					<tr>
						<th>Folder</th><th class="number">Messages</th><th class="number">Own</th><th class="number"
							>With subfolders</th
						><th class="w-16">Share</th>
					</tr>
				</thead>
				<tbody>
					{#each weighing.folders as folder (folder.id)}
						<tr>
							<td class="name" style:padding-left="{10 + folder.depth * 16}px">
								{#if folder.role === 'trash'}
									<a class="lead" href="{base}/clear/bin" title="Open the bin">{folder.name}</a>
								{:else}
									<a class="lead" href="{base}/folders/{folder.id}" title="The messages of {folder.path}"
										>{folder.name}</a
									>
								{/if}
							</td>
							<td class="number">{showCount(folder.messagesBelow)}</td>
							<td class="number">{folder.bytes === folder.bytesBelow ? '' : showBytes(folder.bytes)}</td>
							<td class="number">{showBytes(folder.bytesBelow)}</td>
							<td>
								<ShareBar bytes={folder.bytesBelow} whole={mailbox.bytes} />
							</td>
						</tr>
					{/each}
				</tbody>
			</table>
			<p class="text-ink-soft mt-1 text-xs">Live and binned mail counts against the quota.</p>
		</section>
		<section aria-labelledby="by-what">
			<div class="mb-1.5 flex flex-wrap items-baseline justify-between gap-y-1">
				<h2 id="by-what">By {WEIGHED_BY_NAMES[weighing.by].toLowerCase()}</h2>
				<a class="lead ml-auto mr-4 text-sm" href="{base}/clear/lots?by={LOTS[weighing.by]}">Decide on these</a>
				<label class="text-sm"
					>Weigh by
					<select
						class="field ml-1 py-0.5"
						value={weighing.by}
						onchange={(event) => {
							all = false;
							void goto(`?by=${event.currentTarget.value}`, { noScroll: true, keepFocus: true, replaceState: true });
						}}
					>
						{#each data.weighedBy as by (by)}<option value={by}>{WEIGHED_BY_NAMES[by].toLowerCase()}</option>{/each}
					</select></label
				>
			</div>
			<WeightTable
				name={WEIGHED_BY_NAMES[weighing.by]}
				whole={isPartition(weighing.by) ? mailbox.bytes : undefined}
				rows={rows.map((row) => ({
					...row,
					label: row.label || NAMELESS[weighing.by] || '',
					href: rowHref(row),
					title: `Its messages: ${row.query}`
				}))}
			/>
			{#if weighing.rows.length > SHOWN}
				<button class="quiet mt-2 text-sm" type="button" onclick={() => (all = !all)}>
					{all ? `Show the first ${SHOWN}` : `Show all ${showCount(weighing.rows.length)}`}
				</button>
			{/if}
		</section>
	</div>
	{#if weighing.line.length > 2}
		<div class="mt-5 grid gap-5 *:min-w-0 lg:grid-cols-2">
			<section aria-labelledby="by-year">
				<h2 id="by-year" class="mb-1.5">By year received</h2>
				<BarChart
					labels={weighing.years.years}
					series={weighing.years.parts.map(({ folder, bytes }) => ({
						name: folder ?? 'other folders',
						values: bytes
					}))}
					isStacked
					isTall
					label="Size by year received, the heaviest folders apart; the table below has the numbers"
					show={showBytes}
				/>
				<details class="mt-1 text-sm">
					<summary class="cursor-pointer">The same as a table</summary>
					<div class="overflow-x-auto">
						<table class="sheet mt-1">
							<thead>
								<tr
									><th>Folder</th>{#each weighing.years.years as year (year)}<th class="number">{year}</th>{/each}</tr
								>
							</thead>
							<tbody>
								{#each weighing.years.parts as { folder, bytes } (folder ?? '')}
									<tr
										><td>{folder ?? 'other folders'}</td>{#each bytes as size, at (at)}<td class="number"
												>{showBytes(size)}</td
											>{/each}</tr
									>
								{/each}
							</tbody>
						</table>
					</div>
				</details>
			</section>
			<section aria-labelledby="growth">
				<h2 id="growth" class="mb-1.5">Growth</h2>
				<GrowthChart points={weighing.line} quota={mailbox.quotaBytes} />
				<p class="text-ink-soft mt-1 text-xs">
					What lies here now, summed up by the month in which it was received. <a class="lead" href="?by=month"
						>Month by month</a
					>
				</p>
			</section>
		</div>
	{/if}
	<div class="mt-5"><LargestMessages messages={weighing.largest} onOpen={(id) => (open = id)} /></div>
{/if}

<MessageDrawer bind:id={open} />
