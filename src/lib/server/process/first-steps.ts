import { isBackupWanted } from '../backup/index.ts';
import { type Context, defineUseCase } from '../context/index.ts';
import { type DocketState, listDockets } from '../docket/index.ts';
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

/** How far a new office is with its first steps: mail, one small docket, its way back, a backup. */
async function firstSteps(context: Context): Promise<FirstSteps> {
	const [first] = (await listWeights(context)).filter(
		({ messages, archived }) => messages > 0 || archived.messages > 0
	);
	const [named] = await listMailboxes(context.db);
	const isAny = async (states: DocketState[]) => (await listDockets(context.db, { states, limit: 1 })).length > 0;
	const hasTakenBack = await isAny(['taking-back', 'taken-back']);
	const mailbox = first ?? named;
	return {
		mailbox: mailbox && { id: mailbox.id, name: mailbox.name, hasMail: first !== undefined },
		hasCarriedOut: hasTakenBack || (await isAny(['carrying-out', 'carried-out'])),
		hasTakenBack,
		hasBackup: !(await isBackupWanted(context))
	};
}

/** The use cases of this file. */
export const firstStepsUseCases = [
	defineUseCase({ name: 'firstSteps', thread: 'reader', right: 'administrator', run: firstSteps })
] as const;
