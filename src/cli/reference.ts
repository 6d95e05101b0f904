import type { Command } from 'commander';

/* Options of nearly every command, said once. */
const OF_ALL = ['--json', '--dry-run'];

const argumentsOf = ({ registeredArguments }: Command): string[] =>
	registeredArguments.map((argument) => {
		const name = `${argument.name()}${argument.variadic ? '…' : ''}`;
		return argument.required ? `<${name}>` : `[${name}]`;
	});

function entriesOf(command: Command, words: readonly string[]): string[] {
	const named = [...words, command.name()];
	if (command.commands.length > 0) return command.commands.flatMap((below) => entriesOf(below, named));
	const options = command.options.filter(({ long, hidden }) => !hidden && !OF_ALL.includes(long ?? ''));
	const can = command.options.some(({ long }) => long === '--dry-run') ? ' Has `--dry-run`.' : '';
	return [
		`### ${[...named, ...argumentsOf(command)].join(' ').replaceAll('<', '\\<')}`,
		`${command.description().replace(/^./, (letter) => letter.toUpperCase())}.${can}`,
		...(options.length > 0
			? [options.map(({ flags, description }) => `- \`${flags}\`: ${description}`).join('\n')]
			: [])
	];
}

/** The commands of a program as a page in Markdown, each with its options; written into docs/terminal.md. */
export function referenceOf(program: Command): string {
	return [
		'# The terminal',
		'Generated from the commands: `npm run test:unit -- reference -u` writes this page anew. `npm run kovrel -- COMMAND` runs one; `kovrel` stands for that below. Each command has `--help`, and `--json` for one JSON document; what changes mail or settings has `--dry-run` where that is said. `KOVREL_DATA` names the data folder, `KOVREL_PERSON` who acts.',
		...program.commands.flatMap((command) => entriesOf(command, [program.name()]))
	]
		.join('\n\n')
		.concat('\n');
}
