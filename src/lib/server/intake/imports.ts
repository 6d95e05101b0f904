import {
	type ImportReport,
	oddityContent,
	listImports as storedImports,
	listOddities as storedOddities
} from './imports-store.ts';
import { runningJobs } from '../queue/index.ts';
import { removeUploads } from './uploads.ts';
import { type Context, count, defineUseCase, id } from '../context/index.ts';
import { readContent } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import Joi from 'joi';

/** Imports, the newest first. */
async function listImports({ db }: Context, input: { limit: number }): Promise<ImportReport[]> {
	return storedImports(db, input.limit);
}

/** A page of the odd messages of an import. */
export async function listOddities({ db }: Context, input: { importId: number; after?: number; limit: number }) {
	return storedOddities(db, input.importId, input.limit, input.after ?? 0);
}

/* How long an upload may be continued. */
const UPLOAD_DAYS = 7;

/** Removes abandoned uploads. @returns how many */
export async function clearUploads(context: Context): Promise<number> {
	const before = new Date(context.machineNow().getTime() - UPLOAD_DAYS * 86_400_000);
	const jobs = await runningJobs(context.db);
	const kept = jobs.flatMap(({ input }) => (input as { upload?: string } | null)?.upload ?? []);
	return removeUploads(context.dataFolder, before, new Set(kept));
}
/** The bytes of an odd message. @throws Refusal */
async function readOddity(context: Context, input: { id: number }): Promise<{ name: string; content: Uint8Array }> {
	const oddity = await oddityContent(context.db, input.id);
	const content = oddity && (await readContent(context.db, oddity.contentId));
	if (!content) throw new Refusal('not-found', `The report has no entry ${input.id}.`);
	return { name: `entry ${input.id}.eml`, content };
}

/** The use cases of this file. */
export const importsUseCases = [
	defineUseCase({
		name: 'readOddity',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'opener',
		right: 'administrator',
		run: readOddity
	}),
	defineUseCase({
		name: 'listImports',
		input: () => Joi.object({ limit: count.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: listImports
	}),
	defineUseCase({
		name: 'listOddities',
		input: () => Joi.object({ importId: id.required(), after: count, limit: count.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: listOddities
	}),
	defineUseCase({
		name: 'clearUploads',
		thread: 'writer',
		right: 'administrator',
		run: clearUploads
	})
] as const;
