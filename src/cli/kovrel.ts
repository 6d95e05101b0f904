import { CommanderError } from 'commander';
import { refusalIn } from '$lib/server/machine-trouble.ts';
import { COULD_NOT, DONE, program, WRONG_WORDS } from './command.ts';
import './commands/import.ts';
import './commands/weigh.ts';
import './commands/lots.ts';
import './commands/threads.ts';
import './commands/propose.ts';
import './commands/archive.ts';
import './commands/docket.ts';
import './commands/bin.ts';
import './commands/tag.ts';
import './commands/folder.ts';
import './commands/keep-list.ts';
import './commands/schedule.ts';
import './commands/retain.ts';
import './commands/due.ts';
import './commands/run-schedule.ts';
import './commands/hold.ts';
import './commands/certificate.ts';
import './commands/lists.ts';
import './commands/senders.ts';
import './commands/digest.ts';
import './commands/days.ts';
import './commands/search.ts';
import './commands/restore.ts';
import './commands/export.ts';
import './commands/backup.ts';
import './commands/verify.ts';
import './commands/quota.ts';
import './commands/mailbox.ts';
import './commands/person.ts';
import { say } from './terminal.ts';

/* The terminal door to the use cases: a command a file. */

try {
	await program.parseAsync();
} catch (error) {
	if (error instanceof CommanderError) {
		if (error.code.startsWith('kovrel.')) say(error.message);
		process.exitCode = error.exitCode === DONE ? DONE : WRONG_WORDS;
	} else {
		const refusal = refusalIn(error);
		say(refusal?.message ?? (error instanceof Error ? (error.stack ?? error.message) : String(error)));
		process.exitCode = refusal?.code === 'bad-input' ? WRONG_WORDS : COULD_NOT;
	}
}
