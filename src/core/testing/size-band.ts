import { SIZE_BANDS } from '../weigh/bands.ts';

/** The number of the band that a size falls into. */
export function sizeBand(bytes: number): number {
	return SIZE_BANDS.findLastIndex(({ from }) => bytes >= from);
}
