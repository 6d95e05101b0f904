import { CommanderError } from 'commander';
import { refusalIn } from '$lib/server/machine-trouble.ts';
import { COULD_NOT, DONE, program, WRONG_WORDS } from './command.ts';
import './commands/index.ts';
import { say } from './terminal.ts';

/* The terminal's way to the use cases; each command has a file. */

program.parseAsync().catch((error: unknown) => {
	if (error instanceof CommanderError) {
		if (error.code.startsWith('kovrel.')) say(error.message);
		process.exitCode = error.exitCode === DONE ? DONE : WRONG_WORDS;
	} else {
		const refusal = refusalIn(error);
		say(refusal?.message ?? (error instanceof Error ? (error.stack ?? error.message) : String(error)));
		process.exitCode = refusal?.code === 'bad-input' ? WRONG_WORDS : COULD_NOT;
	}
});
