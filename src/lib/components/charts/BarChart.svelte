<script lang="ts">
	import { BarController, BarElement, CategoryScale, Chart, Legend, LinearScale, Tooltip } from 'chart.js';
	import type { Attachment } from 'svelte/attachments';
	import { mode } from '$lib/mode.svelte.ts';
	import { chartOptions, type Fill, fillOf } from './chart-style.ts';

	Chart.register(BarController, BarElement, CategoryScale, LinearScale, Legend, Tooltip);

	interface Series {
		name: string;
		values: number[];
		/** Undefined: as its place among the others says. */
		fill?: Fill;
		/** A colour of the theme; undefined: by its place. */
		ink?: string;
	}
	/** Something that happened, at the bar of a label. */
	interface Mark {
		at: number;
		name: string;
	}

	let {
		labels,
		values = [],
		series = [],
		isStacked = false,
		marks = [],
		isTall = false,
		label,
		show
	}: {
		labels: string[];
		values?: number[];
		/** Several series side by side, instead of `values`. */
		series?: Series[];
		/** Whether the series stand on each other. */
		isStacked?: boolean;
		marks?: Mark[];
		isTall?: boolean;
		label: string;
		show: (value: number) => string;
	} = $props();

	const shown = $derived<Series[]>(series.length > 0 ? series : [{ name: label, values }]);
	/* Told apart by their pattern and their lightness, without colour; the table has the numbers. */
	const FILLS: readonly Fill[] = ['solid', 'hatched', 'dotted', 'crossed', 'light', 'empty'];
	const INKS = ['--bar', '--stamp', '--ink-soft', '--stamp', '--rule-strong', '--ink-soft'];

	/* A line from top to bottom, with its name beside it. */
	const marksOver = (style: CSSStyleDeclaration) => ({
		id: 'marks',
		afterDatasetsDraw({ ctx, scales, chartArea }: Chart) {
			ctx.save();
			ctx.strokeStyle = style.getPropertyValue('--wax');
			ctx.fillStyle = style.color;
			ctx.setLineDash([4, 3]);
			ctx.font = `12px ${style.fontFamily}`;
			for (const { at, name } of marks) {
				const x = scales.x?.getPixelForValue(at) ?? 0;
				const isLate = x > (chartArea.left + chartArea.right) / 2;
				ctx.beginPath();
				ctx.moveTo(x, chartArea.top);
				ctx.lineTo(x, chartArea.bottom);
				ctx.stroke();
				ctx.textAlign = isLate ? 'right' : 'left';
				ctx.fillText(name, x + (isLate ? -4 : 4), chartArea.top + 10);
			}
			ctx.restore();
		}
	});

	// runs again (destroy, then draw) when labels, values or the theme change
	const draw: Attachment<HTMLCanvasElement> = (canvas) => {
		void mode.current;
		const style = getComputedStyle(canvas);
		const ground = style.getPropertyValue('--sheet');
		const base = chartOptions(style, show);
		const chart = new Chart(canvas, {
			type: 'bar',
			data: {
				labels: $state.snapshot(labels),
				datasets: shown.map(({ name, values, fill, ink }, at) => {
					const colour = style.getPropertyValue(ink ?? INKS[at % INKS.length] ?? '--bar');
					const filled = fillOf(fill ?? FILLS[at % FILLS.length] ?? 'solid', colour, ground);
					return {
						label: name,
						data: $state.snapshot(values),
						backgroundColor: filled,
						hoverBackgroundColor: filled,
						borderColor: colour,
						borderWidth: shown.length > 1 ? 1 : 0,
						maxBarThickness: 38
					};
				})
			},
			options: {
				...base,
				plugins: {
					...base.plugins,
					legend: { ...base.plugins.legend, display: series.length > 1 },
					tooltip: series.length > 0 ? base.plugins.tooltip : { callbacks: { label: (item) => show(Number(item.raw)) } }
				},
				scales: { x: { ...base.scales.x, stacked: isStacked }, y: { ...base.scales.y, stacked: isStacked } }
			},
			plugins: marks.length > 0 ? [marksOver(style)] : []
		});
		return () => chart.destroy();
	};
</script>

<div class="relative overflow-hidden {isTall ? 'h-56' : 'h-36'}" role="img" aria-label={label}>
	<canvas {@attach draw}></canvas>
</div>
