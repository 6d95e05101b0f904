import type { FolderWeight } from './tree.ts';

/** Weight by year of receipt, in parts. */
export interface WeightOfYears {
	years: string[];
	/** The heaviest first; what is in none of them comes last, without a folder. */
	parts: { folder: string | undefined; bytes: number[] }[];
}

/**
 * The weight of each year, with the heaviest top folders (with their subfolders) apart.
 *
 * @param weights bytes by folder and year
 * @param folders parents before their children
 * @param most how many folders stand apart
 */
export function byFolderAndYear(
	weights: readonly { folderId: number; year: string; bytes: number }[],
	folders: readonly Pick<FolderWeight, 'id' | 'parentId' | 'path'>[],
	most: number
): WeightOfYears {
	const tops = new Map<number, string>();
	for (const { id, parentId, path } of folders) tops.set(id, parentId === null ? path : (tops.get(parentId) ?? path));
	const years = [...new Set(weights.map(({ year }) => year))].sort();
	const at = new Map(years.map((year, place) => [year, place]));
	const parts = new Map<string, number[]>();
	for (const { folderId, year, bytes } of weights) {
		const top = tops.get(folderId) ?? '';
		const sums = parts.get(top) ?? years.map(() => 0);
		const place = at.get(year) as number;
		sums[place] = (sums[place] ?? 0) + bytes;
		parts.set(top, sums);
	}
	const sum = (bytes: readonly number[]) => bytes.reduce((total, one) => total + one, 0);
	const sorted = [...parts].sort((a, b) => sum(b[1]) - sum(a[1]) || (a[0] < b[0] ? -1 : 1));
	const apart = sorted.slice(0, most).map(([folder, bytes]) => ({ folder, bytes }));
	const others = sorted.slice(most);
	if (others.length === 0) return { years, parts: apart };
	const rest = years.map((_, place) => others.reduce((total, [, bytes]) => total + (bytes[place] ?? 0), 0));
	return { years, parts: [...apart, { folder: undefined, bytes: rest }] };
}
