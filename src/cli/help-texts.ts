import type { Command } from 'commander';
import { program } from './command.ts';
import './commands/index.ts';

/* Prints the help of all commands as one JSON document: the build keeps it beside the program, which answers from it. */

function helpOf(command: Command, words: readonly string[], texts: Record<string, string>): Record<string, string> {
	texts[words.join(' ')] = command.helpInformation();
	for (const below of command.commands) helpOf(below, [...words, below.name()], texts);
	return texts;
}

process.stdout.write(JSON.stringify(helpOf(program, [], {})));
