import type { Context } from '../../context/index.ts';
import type { DocketLine } from '../../docket/index.ts';
import { listsById } from '../lists-store.ts';

/** The lists of a line. */
export const listIds = ({ scope }: Pick<DocketLine, 'scope'>): number[] => (scope.kind === 'lists' ? scope.ids : []);

/** The names of lists. */
export async function listNames({ db }: Pick<Context, 'db'>, ids: readonly number[]): Promise<string[]> {
	return (await listsById(db, ids)).map(({ name, identifier }) => name || identifier);
}
