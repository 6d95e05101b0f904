import type { Context } from '../../context/index.ts';
import type { DocketLine } from '../../docket/index.ts';
import { listsById } from '../lists-store.ts';

/** The lists that a line is about. */
export const listIds = ({ scope }: Pick<DocketLine, 'scope'>): number[] => (scope.kind === 'lists' ? scope.ids : []);

/** What lists are called. */
export async function listNames({ db }: Pick<Context, 'db'>, ids: readonly number[]): Promise<string[]> {
	return (await listsById(db, ids)).map(({ name, identifier }) => name || identifier);
}
