import { Refusal, type RefusalCode } from './refusal.ts';
import { DamagedContentError, ReadingEndedError } from './mail/index.ts';

/* Failures of the machine, by the beginning of their code: result codes of SQLite, and error numbers of POSIX. */
const TROUBLES: readonly { codes: RegExp; code: RefusalCode; message: string }[] = [
	{
		codes: /^(SQLITE_FULL|SQLITE_IOERR_SHM(SIZE|OPEN)|ENOSPC|EDQUOT)/,
		code: 'no-writing',
		message:
			'There is no room left on the disk. This step was not done; all that was done before it is kept. Make room and do it again: what takes several steps goes on where it was.'
	},
	{
		codes: /^(SQLITE_CORRUPT|SQLITE_NOTADB)/,
		code: 'damaged',
		message:
			'The data file is damaged, and this step was not done. Do not work on with it: end Kovrel, look at the disk, and restore the last backup.'
	},
	{
		codes: /^(SQLITE_IOERR|EIO)/,
		code: 'damaged',
		message:
			'The disk does not read or write as it should, and this step was not done; all that was done before it is kept. Look at the disk before you go on.'
	},
	{
		codes: /^(SQLITE_READONLY|EROFS)/,
		code: 'no-writing',
		message:
			'Nothing can be written to the data folder: its disk is read-only, or its data file is known to be damaged. This step was not done; all that was done before it is kept. Reading, searching, verifying and exporting go on.'
	},
	{
		codes: /^(SQLITE_CANTOPEN|EACCES|EPERM)/,
		code: 'not-possible',
		message:
			'The account that Kovrel runs under may not read or write there, or the disk is read-only and Kovrel was cut off before: then make it writable once. This step was not done; all that was done before it is kept.'
	},
	{
		codes: /^SQLITE_BUSY/,
		code: 'not-possible',
		message: 'Another program works on the data file for long. Nothing was done; do it again in a while.'
	}
];

function troubleIn(error: unknown) {
	const code = (error as { code?: unknown } | null)?.code;
	return typeof code === 'string' ? TROUBLES.find(({ codes }) => codes.test(code)) : undefined;
}

/** Whether the disk or the data file as a whole fails: nothing more is to be done with it. */
export const isMachineFailing = (error: unknown): boolean =>
	!(error instanceof Refusal) && ['no-writing', 'damaged'].includes(troubleIn(error)?.code ?? '');

/**
 * Sentences for failures of the machine: a full or broken disk, missing rights.
 *
 * @returns undefined for an error that is Kovrel's own
 */
export function machineTrouble(error: unknown): Refusal | undefined {
	if (error instanceof DamagedContentError)
		return new Refusal(
			'damaged',
			'Stored bytes are damaged, and this step was not done. Verify tells which they are; restore them from a backup.',
			{ cause: error }
		);
	if (error instanceof ReadingEndedError)
		return new Refusal(
			'not-possible',
			`This message cannot be read here: ${error.message}. Its bytes are whole, and can be downloaded. Nothing was done.`,
			{ cause: error }
		);
	const trouble = troubleIn(error);
	return trouble && new Refusal(trouble.code, trouble.message, { cause: error });
}

/** The refusal in an error, or made of it. */
export const refusalIn = (error: unknown): Refusal | undefined =>
	error instanceof Refusal ? error : machineTrouble(error);
