<script lang="ts">
	import type { FreedSoFar } from '$lib/server/weigh/index.ts';
	import BarChart from '$lib/components/charts/BarChart.svelte';
	import { showDate } from '../../../core/calendar.ts';
	import { showBytes, showMessages } from '../../../core/weigh/units.ts';

	let { freed }: { freed: FreedSoFar } = $props();
</script>

{#if freed.days.length > 0}
	<section class="mt-6" aria-labelledby="freed">
		<h2 id="freed">Freed so far: {showBytes(freed.total.bytes)}</h2>
		<p class="text-ink-soft text-sm">
			{showMessages(freed.total.messages)} no longer count against the quota; what was restored is taken off.
		</p>
		{#if freed.days.length > 1}
			<div class="h-40">
				<BarChart
					labels={freed.days.map(({ day }) => showDate(day))}
					values={freed.days.map(({ bytes }) => bytes)}
					label="Freed up to each day"
					show={showBytes}
				/>
			</div>
		{/if}
		<details class="mt-1 text-sm">
			<summary class="cursor-pointer">Day by day</summary>
			<table class="sheet mt-1 max-w-md">
				<thead><tr><th>Up to</th><th class="number">Messages</th><th class="number">Freed</th></tr></thead>
				<tbody>
					{#each freed.days as { day, messages, bytes } (day)}
						<tr><td>{showDate(day)}</td><td class="number">{messages}</td><td class="number">{showBytes(bytes)}</td></tr
						>
					{/each}
				</tbody>
			</table>
		</details>
	</section>
{/if}
