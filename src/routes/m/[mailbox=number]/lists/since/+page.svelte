<script lang="ts">
	import BarChart from '$lib/components/charts/BarChart.svelte';
	import { showDate } from '../../../../../core/calendar.ts';
	import { showCount } from '../../../../../core/weigh/units.ts';

	let { data } = $props();

	const { inflow } = $derived(data);
	const fewer = $derived(inflow.before - inflow.since);
	const aWeek = (count: number) => `${count.toLocaleString('en-GB', { maximumFractionDigits: 1 })} a week`;
</script>

<svelte:head><title>Effect of unsubscribing – Kovrel</title></svelte:head>

<h1>Effect of unsubscribing</h1>
<p class="mt-1 mb-3 max-w-3xl" data-testid="inflow">
	{#if inflow.lists === 0}
		You have not unsubscribed from a list yet. The effect shows here, week by week.
	{:else}
		<b>{showCount(inflow.lists)} {inflow.lists === 1 ? 'list was' : 'lists were'} asked to stop.</b>
		{#if inflow.before > 0}
			Those asked a week ago or more wrote {aWeek(inflow.before)} in the eight weeks before, and {aWeek(inflow.since)} since:
			<b>{aWeek(Math.abs(fewer))} {fewer >= 0 ? 'fewer' : 'more'}</b>.
		{:else}
			A week after the first request, the change shows here.
		{/if}
	{/if}
</p>
{#if inflow.asked.length > 0}
	<p class="sr-only">
		{inflow.asked.map(({ on, lists }) => `${showDate(on)}: ${lists} asked to stop`).join('; ')}
	</p>
{/if}
{#if inflow.weeks.every(({ left, others }) => left + others === 0)}
	<p class="bg-sheet border-rule-strong border p-5">No list has written to this mailbox in these weeks.</p>
{:else}
	<h2 class="mb-1">Messages from lists, a week</h2>
	<BarChart
		labels={inflow.weeks.map(({ from }) => showDate(from).replace(/ \d+$/, ''))}
		series={[
			...(inflow.lists > 0
				? [{ name: 'lists that were asked to stop', values: inflow.weeks.map(({ left }) => left), ink: '--wax' }]
				: []),
			{ name: 'other lists', values: inflow.weeks.map(({ others }) => others), fill: 'light' as const }
		]}
		isStacked
		isTall
		marks={inflow.asked.map(({ on, week, lists }) => ({
			at: week,
			name: `${lists === 1 ? '1 list' : `${showCount(lists)} lists`} asked on ${showDate(on)}`
		}))}
		label="Messages from lists, a week"
		show={(value) => showCount(value)}
	/>
	<details class="mt-2 text-sm">
		<summary class="cursor-pointer">Week by week</summary>
		<table class="sheet mt-1 max-w-xl">
			<thead><tr><th>Week from</th><th class="number">Asked to stop</th><th class="number">Other lists</th></tr></thead>
			<tbody>
				{#each inflow.weeks as { from, left, others } (from)}
					<tr
						><td>{showDate(from)}</td><td class="number">{showCount(left)}</td><td class="number"
							>{showCount(others)}</td
						></tr
					>
				{/each}
			</tbody>
		</table>
	</details>
{/if}
