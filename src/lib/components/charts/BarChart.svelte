<script lang="ts">
	import { BarController, BarElement, CategoryScale, Chart, Legend, LinearScale, Tooltip } from 'chart.js';
	import type { Attachment } from 'svelte/attachments';
	import { mode } from '$lib/mode.svelte.ts';

	Chart.register(BarController, BarElement, CategoryScale, LinearScale, Legend, Tooltip);

	interface Series {
		name: string;
		values: number[];
	}

	let {
		labels,
		values = [],
		series = [],
		label,
		show
	}: {
		labels: string[];
		values?: number[];
		/** Several series side by side, instead of `values`. */
		series?: Series[];
		label: string;
		show: (value: number) => string;
	} = $props();

	const shown = $derived(series.length > 0 ? series : [{ name: label, values }]);

	// runs again (destroy, then draw) when labels, values or the theme change
	const draw: Attachment<HTMLCanvasElement> = (canvas) => {
		void mode.current;
		const style = getComputedStyle(canvas);
		// differ in lightness, so that they can be told apart without colour; the table has the numbers
		const inks = ['--bar', '--stamp', '--ink-soft', '--rule-strong'].map((name) => style.getPropertyValue(name));
		// ticks and grid take no colour from options.color: each scale needs its own
		const scale = {
			ticks: { color: style.color, font: { family: style.fontFamily } },
			grid: { color: style.getPropertyValue('--rule') },
			border: { color: style.getPropertyValue('--rule-strong') }
		};
		const chart = new Chart(canvas, {
			type: 'bar',
			data: {
				labels: $state.snapshot(labels),
				datasets: shown.map(({ name, values }, at) => ({
					label: name,
					data: $state.snapshot(values),
					backgroundColor: inks[at % inks.length],
					hoverBackgroundColor: inks[at % inks.length],
					maxBarThickness: 38
				}))
			},
			options: {
				responsive: true,
				maintainAspectRatio: false,
				animation: false,
				plugins: {
					legend: { display: series.length > 1, labels: { color: style.color, font: { family: style.fontFamily } } },
					tooltip: { callbacks: { label: (item) => show(Number(item.raw)) } }
				},
				scales: {
					x: { ...scale, grid: { display: false } },
					y: { ...scale, ticks: { ...scale.ticks, maxTicksLimit: 4, callback: (value) => show(Number(value)) } }
				}
			}
		});
		return () => chart.destroy();
	};
</script>

<div class="relative h-36" role="img" aria-label={label}><canvas {@attach draw}></canvas></div>
