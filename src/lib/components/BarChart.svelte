<script lang="ts">
	import { BarController, BarElement, CategoryScale, Chart, LinearScale, Tooltip } from 'chart.js';
	import type { Attachment } from 'svelte/attachments';
	import { mode } from '$lib/mode.svelte.ts';

	Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip);

	let {
		labels,
		values,
		label,
		show
	}: { labels: string[]; values: number[]; label: string; show: (value: number) => string } = $props();

	// runs again (destroy, then draw) whenever labels, values or the ground change
	const draw: Attachment<HTMLCanvasElement> = (canvas) => {
		void mode.current;
		const style = getComputedStyle(canvas);
		const bar = style.getPropertyValue('--bar');
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
				datasets: [
					{ label, data: $state.snapshot(values), backgroundColor: bar, hoverBackgroundColor: bar, maxBarThickness: 38 }
				]
			},
			options: {
				responsive: true,
				maintainAspectRatio: false,
				animation: false,
				plugins: { tooltip: { callbacks: { label: (item) => show(Number(item.raw)) } } },
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
