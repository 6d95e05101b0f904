import { existsSync, readFileSync } from 'node:fs';

/*
 * Where the terminal's program begins. Whoever asks for help waits for no command to be loaded: the build has written all
 * of it down.
 */

const HELP = new URL('./kovrel-help.json', import.meta.url);

function helpAsked(): string | undefined {
	const words = process.argv.slice(2);
	const last = words.pop();
	if ((last !== '--help' && last !== '-h') || !existsSync(HELP)) return undefined;
	const texts = JSON.parse(readFileSync(HELP, 'utf8')) as Record<string, string>;
	return texts[words.join(' ')];
}

const help = helpAsked();
if (help !== undefined) process.stdout.write(help);
// named at run time, so that it is no part of this file
else await import(new URL('./kovrel-commands.mjs', import.meta.url).href);
