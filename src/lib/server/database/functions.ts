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
	const known = new Map<string, string | null>();
	const terms = new Map<string, Terms>();
	const termsOf = (text: string) => {
		const before = terms.get(text);
		if (before) return before;
		const read = readTerms(text);
		terms.set(text, read);
		return read;
	};
	return (text, firstMonth, state, receivedOn, event) => {
		if (text === null || receivedOn === null) return null;
		const key = `${text}|${firstMonth}|${state}|${receivedOn}|${event}`;
		let said = known.get(key);
		if (said === undefined) {
			const item: RetainedItem = {
				state: state as RetainedItem['state'],
				receivedOn: receivedOn as CalendarDate,
				event: (event as CalendarDate | null) ?? undefined
			};
			const step: DueStep | undefined = nextStep(termsOf(text as string), item, firstMonth as number);
			said = step ? `${step.on} ${step.action}` : null;
			if (known.size >= MOST_KNOWN) known.clear();
			known.set(key, said);
		}
		return said;
	};
}

/** Adds to a connection the functions that statements of the stores use. */
export function addFunctions(connection: BetterSqlite3.Database): void {
	connection.function('next_step', { deterministic: true, varargs: false }, nextStepInSql());
}
