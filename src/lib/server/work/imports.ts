import { type ImportReport, listImports as storedImports, listOddities as storedOddities } from '../stores/imports.ts';
import { runningJobs } from '../stores/jobs.ts';
import { removeUploads } from '../sources/uploads.ts';
import type { Context } from './context.ts';

/** Imports, the newest first. */
export async function listImports({ db }: Context, input: { limit: number }): Promise<ImportReport[]> {
	return storedImports(db, input.limit);
}

/** What an import has listed as odd, a page of it. */
export async function listOddities({ db }: Context, input: { importId: number; after?: number; limit: number }) {
	return storedOddities(db, input.importId, input.limit, input.after ?? 0);
}

/* For so long somebody may go on with an upload. */
const UPLOAD_DAYS = 7;

/** Removes uploads that nobody goes on with. @returns how many there were */
export async function clearUploads(context: Context): Promise<number> {
	const before = new Date(context.machineNow().getTime() - UPLOAD_DAYS * 86_400_000);
	const jobs = await runningJobs(context.db);
	const kept = jobs.flatMap(({ input }) => (input as { upload?: string } | null)?.upload ?? []);
	return removeUploads(context.dataFolder, before, new Set(kept));
}
