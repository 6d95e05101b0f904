import { crc32 } from 'node:zlib';
import type BetterSqlite3 from 'better-sqlite3';
import type { CalendarDate } from '../../../core/calendar.ts';
import { type DueStep, nextStep, readTerms, type RetainedItem, type Terms } from '../../../core/retention/terms.ts';

/* Mail comes in clusters: a million messages fall on some thousand days. */
const MOST_KNOWN = 200_000;

/**
 * The next disposition of an item, by core/retention: set-based statements call the rule itself, so that it stands in
 * one place. `2032-04-01 destroy`, or null.
 */
function nextStepInSql(): (...values: unknown[]) => string | null {
	const known = new Map<string, { terms: Terms; steps: Map<string, string | null> }>();
	// rows come by folder and day: mostly the terms repeat
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

/* A CRC-32 (ISO 3309) over the values of a row, each with its kind: it finds damage, and is no proof against forgery. */
function rowSum(...values: unknown[]): number {
	let sum = 0;
	for (const value of values)
		sum = Buffer.isBuffer(value) ? crc32(value, sum) : crc32(`${typeof value} ${String(value)}\0`, sum);
	return sum;
}

/** Adds the functions used by the stores' statements to a connection. */
export function addFunctions(connection: BetterSqlite3.Database): void {
	connection.function('next_step', { deterministic: true, varargs: false }, nextStepInSql());
	connection.function('row_sum', { deterministic: true, varargs: true }, rowSum);
}
