import type { Asked } from '$lib/server/lists/index.ts';
import { showCount } from '../core/weigh/units.ts';

/** The results of unsubscribe requests: "12 confirmed, 3 asked by mail, 1 could not be reached". */
export function askedWords({ confirmed, asked, failed, unknown, waiting }: Asked): string {
	const said = [
		[confirmed, 'confirmed'],
		[asked, 'asked by mail'],
		[failed, 'could not be asked or refused'],
		[unknown, 'cut off: it is not known whether they heard it'],
		[waiting, 'still to be asked']
	] as const;
	const words = said.filter(([count]) => count > 0).map(([count, what]) => `${showCount(count)} ${what}`);
	return words.join(', ') || 'nobody had to be asked';
}
