import { showBytes } from '../../../core/weigh/units.ts';
import { type Context, defineUseCase } from '../context/index.ts';
import { freedSpace, type FreedSpace, shorten, writeAnew } from '../database/index.ts';
import { log } from '../log.ts';
import { Refusal } from '../refusal.ts';

/* Less is used up by the mail of some days. */
const WORTH_BYTES = 50_000_000;

/** What was given back, and what the file has now. */
export interface FreedSpaceReturned extends FreedSpace {
	returned: number;
}

/** Gives back to the disk what destroying freed, where it is worth it and the file allows it in small steps. */
export async function returnFreedSpace(context: Context): Promise<FreedSpaceReturned> {
	const before = await freedSpace(context.db);
	if (!before.inSteps || before.freeBytes < WORTH_BYTES) return { ...before, returned: 0 };
	const done = await given(context, before, () => shorten(context.db, context.signal));
	log.info({ returned: showBytes(done.returned) }, 'freed space was given back to the disk');
	return done;
}

/**
 * Gives back to the disk all that is used by nothing. A file from before is written anew once, for which the disk needs as
 * much room again; nobody can change anything meanwhile.
 *
 * @throws Refusal
 */
export async function compact(context: Context): Promise<FreedSpaceReturned> {
	const before = await freedSpace(context.db);
	if (before.inSteps) return given(context, before, () => shorten(context.db, context.signal));
	const needed = (before.fileBytes - before.freeBytes) * 2;
	if (context.freeBytes() < needed)
		throw new Refusal(
			'not-possible',
			`To write the data file anew, ${showBytes(needed)} of room are needed, and ${showBytes(context.freeBytes())} are free. Nothing was done.`
		);
	return given(context, before, () => writeAnew(context.db));
}

async function given(context: Context, before: FreedSpace, work: () => Promise<void>): Promise<FreedSpaceReturned> {
	await work();
	const now = await freedSpace(context.db);
	const returned = Math.max(0, before.fileBytes - now.fileBytes);
	return { ...now, returned };
}

/** The use cases of this file. */
export const returnFreedSpaceUseCases = [
	defineUseCase({ name: 'returnFreedSpace', thread: 'writer', right: 'administrator', run: returnFreedSpace })
] as const;
