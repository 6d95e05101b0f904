<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import Refused from '$lib/components/forms/Refused.svelte';
	import BarChart from '$lib/components/charts/BarChart.svelte';
	import LargestMessages from '$lib/components/charts/LargestMessages.svelte';
	import QuotaBar from '$lib/components/charts/QuotaBar.svelte';
	import WeightTable from '$lib/components/charts/WeightTable.svelte';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import { isPartition, NAMELESS, WEIGHED_BY_NAMES } from '$lib/weighed-by.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { showBytes, showCount, showShare } from '../../../core/weigh/units.ts';

	let { data, form } = $props();

	const answer = $derived(form as { message?: string; limits?: unknown } | null);
	const canSet = $derived(page.data.person?.role === 'administrator');

	const sum = (pick: (mailbox: (typeof data.compared.mailboxes)[number]) => number) =>
		data.compared.mailboxes.reduce((total, mailbox) => total + pick(mailbox), 0);

	/* All are weighed until some are selected; a second tick comes before the answer to the first. */
	let selected = $derived(data.selected ?? []);
	const compared = $derived(
		selected.length > 0 ? data.compared.mailboxes.filter(({ id }) => selected.includes(id)) : data.compared.mailboxes
	);
	const together = $derived(data.together);
	const SHOWN = 14;
	let all = $state(false);
	let open = $state<number>();
	const years = $derived(
		[...new Set(compared.flatMap(({ months }) => months.map(({ month }) => month.slice(0, 4))))].sort()
	);
	const inYear = (mailbox: (typeof data.compared.mailboxes)[number], year: string) =>
		mailbox.months.reduce((total, { month, bytes }) => total + (month.startsWith(year) ? bytes : 0), 0);

	function show(changed: Record<string, string>) {
		const address = new URL(page.url);
		for (const [name, value] of Object.entries(changed))
			if (value === '') address.searchParams.delete(name);
			else address.searchParams.set(name, value);
		void goto(address.pathname + address.search, { keepFocus: true, noScroll: true });
	}
	function toggle(id: number) {
		selected = selected.includes(id) ? selected.filter((other) => other !== id) : [...selected, id];
		show({ in: selected.join(',') });
	}
	function rowHref(row: { query: string }): string {
		const within = selected.length > 0 ? `&in=${selected.join(',')}` : '';
		return `/find?q=${encodeURIComponent(row.query)}${within}`;
	}
</script>

<svelte:head><title>All mailboxes – Kovrel</title></svelte:head>

<div>
	<h1>
		{compared.length === data.compared.mailboxes.length
			? 'All mailboxes weigh'
			: compared.length === 1
				? `${compared[0]?.name} weighs`
				: `${showCount(compared.length)} mailboxes together weigh`}
		{showBytes(compared.reduce((total, { bytes }) => total + bytes, 0))}
	</h1>
	<p class="mt-1 mb-3">
		The mailbox furthest over its quota comes first. Select some to weigh them as one.
		{#if canSet}<a class="lead" href="/lots{page.url.search}">Decide on lots over these mailboxes</a>{/if}
	</p>
	{#if canSet}
		<form
			method="post"
			class="mb-3 flex flex-wrap items-center gap-2 text-sm"
			aria-label="Warnings of quotas"
			use:enhance
		>
			<label>
				Warn when a mailbox is
				<input
					class="field w-32 py-0.5!"
					name="shares"
					value={data.compared.limits.shares.join(', ')}
					maxlength="200"
				/>
				% full,</label
			>
			<label
				>and <input
					class="field w-16 py-0.5!"
					type="number"
					name="days"
					min="0"
					max="366"
					value={data.compared.limits.days}
				/> days before it is full.</label
			>
			<button class="quiet text-sm">Save</button>
			{#if answer?.limits}<span role="status">Saved.</span>{/if}
		</form>
		<Refused message={answer?.message} />
	{/if}
	{#if data.compared.mailboxes.length === 0}
		<p class="bg-sheet border-rule-strong border p-5">
			There is no mailbox yet. To begin, <a class="lead" href="/mailboxes">import mail</a>.
		</p>
	{:else}
		<table class="sheet">
			<thead>
				<tr>
					<th class="w-9"><span class="sr-only">Weigh</span></th><th>Mailbox</th><th class="number">Messages</th><th
						class="number">Unread</th
					><th class="number">Size</th><th class="number">Quota</th><th class="w-40">Against the quota</th><th
						class="number">In the bin</th
					><th class="number">Archived</th><th class="number">Grows a month</th><th class="number">Quota reached</th>
				</tr>
			</thead>
			<tbody>
				{#each data.compared.mailboxes as mailbox (mailbox.id)}
					<tr>
						<td>
							<input
								type="checkbox"
								aria-label="Weigh {mailbox.name}"
								checked={selected.includes(mailbox.id)}
								onchange={() => toggle(mailbox.id)}
							/>
						</td>
						<td
							><a class="lead font-semibold" href="/m/{mailbox.id}/weigh">{mailbox.name}</a
							>{#each mailbox.warnings as warning (warning)}<span class="text-wax block max-w-md text-sm"
									>{warning}</span
								>{/each}</td
						>
						<td class="number">{showCount(mailbox.messages)}</td>
						<td class="number">{showShare(mailbox.unread, mailbox.messages)}</td>
						<td class="number">{showBytes(mailbox.bytes)}</td>
						<td class="number">{mailbox.quotaBytes === undefined ? 'none' : showBytes(mailbox.quotaBytes)}</td>
						<td><QuotaBar bytes={mailbox.bytes} quota={mailbox.quotaBytes} /></td>
						<td class="number">{showBytes(mailbox.binned.bytes)}</td>
						<td class="number">{showBytes(mailbox.archived.bytes)}</td>
						<td class="number">{showBytes(mailbox.growth.bytesAMonth)}</td>
						<td class="number">
							{#if mailbox.quotaBytes !== undefined && mailbox.bytes > mailbox.quotaBytes}<b class="text-wax"
									>over it now</b
								>{:else if mailbox.growth.quotaReachedOn}{showDate(mailbox.growth.quotaReachedOn)}{:else}not foreseeable{/if}
						</td>
					</tr>
				{/each}
			</tbody>
			<tfoot>
				<tr class="font-semibold">
					<td></td><td>In all</td>
					<td class="number">{showCount(sum(({ messages }) => messages))}</td>
					<td class="number"
						>{showShare(
							sum(({ unread }) => unread),
							sum(({ messages }) => messages)
						)}</td
					>
					<td class="number">{showBytes(sum(({ bytes }) => bytes))}</td>
					<td></td><td></td>
					<td class="number">{showBytes(sum(({ binned }) => binned.bytes))}</td>
					<td class="number">{showBytes(sum(({ archived }) => archived.bytes))}</td>
					<td class="number">{showBytes(sum(({ growth }) => growth.bytesAMonth))}</td>
					<td></td>
				</tr>
			</tfoot>
		</table>
		{#if together}
			<section aria-labelledby="as-one" class="mt-5">
				<div class="mb-5">
					<div class="mb-1.5 flex items-baseline justify-between">
						<h2 id="as-one">As one, by {WEIGHED_BY_NAMES[together.by].toLowerCase()}</h2>
						<label class="text-sm"
							>Weigh by
							<select
								class="field ml-1 py-0.5"
								value={together.by}
								onchange={(event) => {
									all = false;
									show({ by: event.currentTarget.value });
								}}
							>
								{#each data.weighedBy as by (by)}<option value={by}>{WEIGHED_BY_NAMES[by].toLowerCase()}</option>{/each}
							</select></label
						>
					</div>
					<WeightTable
						name={WEIGHED_BY_NAMES[together.by]}
						whole={isPartition(together.by) ? together.bytes : undefined}
						rows={(all ? together.rows : together.rows.slice(0, SHOWN)).map((row) => ({
							...row,
							label: row.label || NAMELESS[together.by] || '',
							href: rowHref(row),
							title: `Its messages: ${row.query}`
						}))}
					/>
					{#if together.rows.length > SHOWN}
						<button class="quiet mt-2 text-sm" type="button" onclick={() => (all = !all)}>
							{all ? `Show the first ${SHOWN}` : `Show all ${showCount(together.rows.length)}`}
						</button>
					{/if}
				</div>
				<LargestMessages
					messages={together.largest}
					mailboxes={data.compared.mailboxes}
					onOpen={(id: number) => (open = id)}
				/>
			</section>
		{/if}
		{#if years.length > 0}
			<h2 class="mt-5 mb-1.5">By year received</h2>
			<BarChart
				labels={years}
				series={compared.map((mailbox) => ({
					name: mailbox.name,
					values: years.map((year) => inYear(mailbox, year))
				}))}
				label="Size by year received, a bar for each mailbox; the table below has the numbers"
				show={showBytes}
			/>
			<table class="sheet mt-2">
				<thead>
					<tr
						><th>Mailbox</th>{#each years as year (year)}<th class="number">{year}</th>{/each}</tr
					>
				</thead>
				<tbody>
					{#each compared as mailbox (mailbox.id)}
						<tr>
							<td class="name">{mailbox.name}</td>
							{#each years as year (year)}<td class="number">{showBytes(inYear(mailbox, year))}</td>{/each}
						</tr>
					{/each}
				</tbody>
			</table>
		{/if}
	{/if}
	<MessageDrawer bind:id={open} />
</div>
