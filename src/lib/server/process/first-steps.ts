import { isBackupWanted } from '../backup/index.ts';
import { type Context, defineUseCase } from '../context/index.ts';
import { listDockets } from '../docket/index.ts';
import { listMailboxes } from '../mail/index.ts';
import { listWeights } from '../weigh/index.ts';

/** How far a new office is with its first steps. */
export interface FirstSteps {
	/** The first mailbox with mail; its name is known before its mail is there. */
	mailbox: { id: number; name: string; hasMail: boolean } | undefined;
	hasCarriedOut: boolean;
	hasTakenBack: boolean;
	hasBackup: boolean;
}

const PERSONS_DOCKETS = 50;

/** How far a new office is with its first steps: mail, one small docket, its way back, a backup. */
async function firstSteps(context: Context): Promise<FirstSteps> {
	const [first] = (await listWeights(context)).filter(
		({ messages, archived }) => messages > 0 || archived.messages > 0
	);
	const [named] = await listMailboxes(context.db);
	const dockets = await listDockets(context.db, {
		states: ['carrying-out', 'carried-out', 'taking-back', 'taken-back'],
		limit: PERSONS_DOCKETS
	});
	const mailbox = first ?? named;
	return {
		mailbox: mailbox && { id: mailbox.id, name: mailbox.name, hasMail: first !== undefined },
		hasCarriedOut: dockets.length > 0,
		hasTakenBack: dockets.some(({ state }) => state === 'taken-back'),
		hasBackup: !(await isBackupWanted(context))
	};
}

/** The use cases of this file. */
export const firstStepsUseCases = [
	defineUseCase({ name: 'firstSteps', thread: 'reader', right: 'administrator', run: firstSteps })
] as const;
