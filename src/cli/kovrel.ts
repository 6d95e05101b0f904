import { CommanderError } from 'commander';
import { refusalIn } from '$lib/server/machine-trouble.ts';
import { COULD_NOT, DONE, program, WRONG_WORDS } from './command.ts';
import './commands/mail/import.ts';
import './commands/mail/weigh.ts';
import './commands/decisions/lots.ts';
import './commands/mail/threads.ts';
import './commands/decisions/propose.ts';
import './commands/decisions/archive.ts';
import './commands/decisions/docket.ts';
import './commands/decisions/rules.ts';
import './commands/mail/awaited.ts';
import './commands/mail/live.ts';
import './commands/mail/reply.ts';
import './commands/decisions/bin.ts';
import './commands/mail/tag.ts';
import './commands/mail/folder.ts';
import './commands/decisions/keep-list.ts';
import './commands/records/schedule.ts';
import './commands/records/class.ts';
import './commands/records/retain.ts';
import './commands/records/due.ts';
import './commands/records/review.ts';
import './commands/records/run-schedule.ts';
import './commands/records/hold.ts';
import './commands/records/certificate.ts';
import './commands/decisions/lists.ts';
import './commands/decisions/senders.ts';
import './commands/decisions/digest.ts';
import './commands/office/days.ts';
import './commands/mail/search.ts';
import './commands/mail/restore.ts';
import './commands/mail/export.ts';
import './commands/office/backup.ts';
import './commands/office/verify.ts';
import './commands/mail/quota.ts';
import './commands/mail/mailbox.ts';
import './commands/office/person.ts';
import { say } from './terminal.ts';

/* The terminal's way to the use cases; each command has a file. */

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
