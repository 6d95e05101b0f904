import { showCount } from '../core/weigh/units.ts';
import { type Damage, damageInWords } from '../core/archive/damage.ts';

const MOST_SHOWN = 50;

/** What is damaged, a line each; --json has all of it. */
export function damagedLines(damaged: readonly Damage[]): string[] {
	const left = damaged.length - MOST_SHOWN;
	return [
		...(damaged.length > 0 ? [`DAMAGED: ${showCount(damaged.length)}`] : []),
		...damaged.slice(0, MOST_SHOWN).map((one) => `  ${damageInWords(one)}`),
		...(left > 0 ? [`  and ${showCount(left)} more (--json names all)`] : [])
	];
}
