import type { ChartOptions } from 'chart.js';

/** How the bars of a series are filled: colour never carries meaning alone. */
export type Fill = 'solid' | 'hatched' | 'dotted' | 'crossed' | 'empty' | 'light';

const TILE = 8;

/* What is drawn into a tile of a pattern. */
const STROKES: Partial<Record<Fill, (to: CanvasRenderingContext2D) => void>> = {
	hatched: (to) => {
		to.moveTo(0, TILE);
		to.lineTo(TILE, 0);
		to.moveTo(-1, 1);
		to.lineTo(1, -1);
		to.moveTo(TILE - 1, TILE + 1);
		to.lineTo(TILE + 1, TILE - 1);
	},
	crossed: (to) => {
		to.moveTo(0, 0);
		to.lineTo(TILE, TILE);
		to.moveTo(TILE, 0);
		to.lineTo(0, TILE);
	},
	dotted: (to) => {
		for (const [x, y] of [
			[2, 2],
			[6, 6]
		] as const) {
			to.moveTo(x, y);
			to.arc(x, y, 0.8, 0, 2 * Math.PI);
		}
	}
};

/** The fill of a series in an ink, on the ground of the sheet. */
export function fillOf(fill: Fill, ink: string, ground: string): string | CanvasPattern {
	if (fill === 'solid') return ink;
	const tile = document.createElement('canvas');
	tile.width = tile.height = TILE;
	const to = tile.getContext('2d');
	if (!to) return ink;
	to.fillStyle = ground;
	to.fillRect(0, 0, TILE, TILE);
	if (fill === 'light') {
		to.globalAlpha = 0.45;
		to.fillStyle = ink;
		to.fillRect(0, 0, TILE, TILE);
	}
	to.strokeStyle = ink;
	to.lineWidth = 1.6;
	to.beginPath();
	STROKES[fill]?.(to);
	to.stroke();
	return to.createPattern(tile, 'repeat') ?? ink;
}

/** Ticks, grid and legend in the colours and the face of the page: Chart.js takes none of them from `options.color`. */
export function chartOptions(style: CSSStyleDeclaration, show: (value: number) => string) {
	const font = { family: style.fontFamily };
	const scale = {
		ticks: { color: style.color, font },
		grid: { color: style.getPropertyValue('--rule') },
		border: { color: style.getPropertyValue('--rule-strong') }
	};
	return {
		responsive: true,
		maintainAspectRatio: false,
		animation: false,
		plugins: {
			legend: { labels: { color: style.color, font, boxHeight: 10 } },
			tooltip: { callbacks: { label: (item) => `${item.dataset.label ?? ''}: ${show(Number(item.raw))}` } }
		},
		scales: {
			x: { ...scale, grid: { display: false } },
			y: {
				...scale,
				beginAtZero: true,
				ticks: { ...scale.ticks, maxTicksLimit: 4, callback: (value: string | number) => show(Number(value)) }
			}
		}
	} satisfies ChartOptions;
}
