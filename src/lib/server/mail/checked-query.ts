import { type Query, readQuery, QueryError } from '../../../core/search/query.ts';
import { Refusal } from '../refusal.ts';

/** Reads a query typed by a person. @throws Refusal with the fault and its place */
export function checkedQuery(text: string, typing = false): Query {
	try {
		return readQuery(text, { typing });
	} catch (error) {
		if (!(error instanceof QueryError)) throw error;
		throw new Refusal('bad-input', `${error.message} (at character ${error.at + 1} of the query).`, { cause: error });
	}
}
