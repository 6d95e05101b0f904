import { type ImportReport, listImports as storedImports, listOddities as storedOddities } from '../stores/imports.ts';
import type { Context } from './context.ts';

/** Imports, the newest first. */
export async function listImports({ db }: Context, input: { limit: number }): Promise<ImportReport[]> {
	return storedImports(db, input.limit);
}

/** What an import has listed as odd, a page of it. */
export async function listOddities({ db }: Context, input: { importId: number; after?: number; limit: number }) {
	return storedOddities(db, input.importId, input.limit, input.after ?? 0);
}
