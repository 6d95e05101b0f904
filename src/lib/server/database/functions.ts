import type BetterSqlite3 from 'better-sqlite3';
import type { CalendarDate } from '../../../core/calendar.ts';
import { type DueStep, nextStep, readTerms, type RetainedItem, type Terms } from '../../../core/retention/terms.ts';

/* Mail comes in clusters: a million messages are of some thousand days. */
const MOST_KNOWN = 200_000;

/**
 * What happens to an item next, as core/retention has it: statements over sets ask the rule itself, so that it stands in one
 * place. `2032-04-01 destroy`, or null.
 */
function nextStepInSql(): (...values: unknown[]) => string | null {
	const known = new Map<string, { terms: Terms; steps: Map<string, string | null> }>();
	// rows come folder by folder and day by day: mostly it is the same terms again
	let last = {
		text: '',
		firstMonth: 0,
		of: undefined as { terms: Terms; steps: Map<string, string | null> } | undefined
	};
	const knownOf = (text: string, firstMonth: number) => {
		if (last.of && last.text === text && last.firstMonth === firstMonth) return last.of;
		const key = `${firstMonth} ${text}`;
		const of = known.get(key) ?? { terms: readTerms(text), steps: new Map<string, string | null>() };
		known.set(key, of);
		last = { text, firstMonth, of };
		return of;
	};
	return (text, firstMonth, state, receivedOn, event) => {
		if (text === null || receivedOn === null) return null;
		const { terms, steps } = knownOf(text as string, firstMonth as number);
		const days = receivedOn === event ? (receivedOn as string) : `${receivedOn as string} ${event as string | null}`;
		const key = state === 'live' ? days : `a${days}`;
		let said = steps.get(key);
		if (said === undefined) {
			const item: RetainedItem = {
				state: state as RetainedItem['state'],
				receivedOn: receivedOn as CalendarDate,
				event: (event as CalendarDate | null) ?? undefined
			};
			const step: DueStep | undefined = nextStep(terms, item, firstMonth as number);
			said = step ? `${step.on} ${step.action}` : null;
			if (steps.size >= MOST_KNOWN) steps.clear();
			steps.set(key, said);
		}
		return said;
	};
}

/** Adds to a connection the functions that statements of the stores use. */
export function addFunctions(connection: BetterSqlite3.Database): void {
	connection.function('next_step', { deterministic: true, varargs: false }, nextStepInSql());
}
