import type { CalendarDate } from '../../../core/calendar.ts';
import { type Query, readQuery, QueryError } from '../../../core/search/query.ts';
import { Refusal } from '../refusal.ts';

/** Reads a query typed by a person, on a day where it may depend on one. @throws Refusal with the fault and its place */
export function checkedQuery(
	text: string,
	how: { typing?: boolean | undefined; today?: CalendarDate | undefined } = {}
): Query {
	try {
		return readQuery(text, { typing: how.typing ?? false, today: how.today });
	} catch (error) {
		if (!(error instanceof QueryError)) throw error;
		throw new Refusal('bad-input', `${error.message} (at character ${error.at + 1} of the query).`, { cause: error });
	}
}
