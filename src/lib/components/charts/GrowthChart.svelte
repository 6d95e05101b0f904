<script lang="ts">
	import {
		CategoryScale,
		Chart,
		Filler,
		Legend,
		LinearScale,
		LineController,
		LineElement,
		PointElement,
		Tooltip
	} from 'chart.js';
	import type { Attachment } from 'svelte/attachments';
	import { mode } from '$lib/mode.svelte.ts';
	import type { GrowthPoint } from '../../../core/weigh/growth.ts';
	import { showMonth } from '../../../core/calendar.ts';
	import { showBytes } from '../../../core/weigh/units.ts';
	import { chartOptions } from './chart-style.ts';

	Chart.register(CategoryScale, Filler, Legend, LinearScale, LineController, LineElement, PointElement, Tooltip);

	/* The mail that lies here, summed up by the month in which it was received, and how it goes on at the present rate. */
	let { points, quota }: { points: readonly GrowthPoint[]; quota: number | undefined } = $props();

	const shown = $derived(points.map(({ month, bytes }) => `${showMonth(month)}: ${showBytes(bytes)}`));
	const label = $derived(
		`Mail by the month in which it was received, summed up, from ${shown[0] ?? ''} to ${shown.at(-1) ?? ''}`
	);

	const draw: Attachment<HTMLCanvasElement> = (canvas) => {
		void mode.current;
		const style = getComputedStyle(canvas);
		const ink = (name: string) => style.getPropertyValue(name);
		const base = chartOptions(style, showBytes);
		const known = points.filter(({ isExpected }) => !isExpected).length;
		const line = { pointRadius: 0, borderWidth: 2, tension: 0 };
		const chart = new Chart(canvas, {
			type: 'line',
			data: {
				labels: points.map(({ month }) => showMonth(month)),
				datasets: [
					{
						...line,
						label: 'mail received until then',
						data: points.map(({ bytes }, at) => (at < known ? bytes : null)),
						borderColor: ink('--stamp'),
						backgroundColor: ink('--stamp-soft'),
						fill: true
					},
					...(known < points.length
						? [
								{
									...line,
									label: 'at this rate',
									data: points.map(({ bytes }, at) => (at >= known - 1 ? bytes : null)),
									borderColor: ink('--stamp'),
									borderDash: [5, 4]
								}
							]
						: []),
					...(quota === undefined
						? []
						: [
								{
									...line,
									label: `quota, ${showBytes(quota)}`,
									data: points.map(() => quota),
									borderColor: ink('--wax'),
									borderDash: [2, 3]
								}
							])
				]
			},
			options: {
				...base,
				plugins: {
					...base.plugins,
					legend: {
						labels: { ...base.plugins.legend.labels, usePointStyle: true, pointStyle: 'line', pointStyleWidth: 30 }
					}
				}
			}
		});
		return () => chart.destroy();
	};
</script>

<div class="relative h-56 overflow-hidden" role="img" aria-label={label}><canvas {@attach draw}></canvas></div>
