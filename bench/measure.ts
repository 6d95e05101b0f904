/** Milliseconds that a piece of work takes, the best of so many times; the first is not counted where there are several. */
export async function best(times: number, work: () => unknown): Promise<number> {
	const taken = await each(Array.from({ length: times }, () => work));
	return Math.min(...(times > 1 ? taken.slice(1) : taken));
}

/** Milliseconds that each piece of work takes. */
export async function each(works: (() => unknown)[]): Promise<number[]> {
	const taken: number[] = [];
	for (const work of works) {
		const began = performance.now();
		await work();
		taken.push(performance.now() - began);
	}
	return taken;
}

/** The value below which that share of all lies. */
export function percentile(values: readonly number[], share: number): number {
	const sorted = [...values].sort((a, b) => a - b);
	return sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))] ?? 0;
}

/** Two figures of the same run, as a ratio. */
export const ratio = (a: number, b: number) => `${(a / b).toFixed(2)}`;

/** A table in Markdown. */
export function table(head: string[], rows: string[][]): string {
	return [head, head.map(() => '---'), ...rows].map((cells) => `| ${cells.join(' | ')} |`).join('\n');
}
