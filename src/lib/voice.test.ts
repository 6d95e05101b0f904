import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { expect, it } from 'vitest';

/* Words that were replaced, each with what is said instead: they stay out of the interface, the terminal and the guide. */
const REPLACED: readonly [RegExp, string][] = [
	[/\bbring(s|ing)? in (more )?mail\b|\bbrought in\b/i, 'import mail, imported'],
	[/\b(have|has|had) (it |them |mail |messages )?back\b|\bput back\b|\bgives? back (all|what)\b/i, 'restore, restored'],
	[/\bnobody foresaw\b/i, 'what happened, and what to do'],
	[/\bneither any more\b/i, 'neither trusted nor blocked'],
	[/\bWho wins\b/, 'Which mark decides?'],
	[/\bLeave (\$\{|\{|\d|all )|\bHow to leave\b/, 'unsubscribe (from a list)'],
	[/\bso already\b/i, 'already archived, already in this folder'],
	[/\bkeep(s|ing)? a copy\b/i, 'download'],
	[/\bIt is set\.|\bUse this from now on\b/, 'Saved., Save'],
	[/\bwhat is old\b/, 'old mail'],
	[/\b[Ll]ook(ed)? (for .* )?no longer\b|\bTake it off\b/, 'stop applying, remove from the schedule'],
	[/>Doors</, 'sign-in rules'],
	[/>Leave</, 'cancel'],
	[/\bUntick\b/, 'clear selection'],
	[/\bBring (it|mail) in\b/, 'import it'],
	[/['"`>]Of what\b|\bOn \w+ decides\b/, 'subject, verb, object: The certificate keeps …'],
	[
		/\bwhat was received\b(?! in)|\bclassing it\b|\bby now: look\b/,
		'mail received before …, changing its class, read it again'
	],
	[/\b(kelp|buoy|heather)\b/, 'the name of the colour: green, yellow, purple']
];

/* Code that speaks to people, and the guide. What is sealed in the ledger keeps its words. */
const FOLDERS = ['src/routes', 'src/lib', 'src/cli', 'src/core', 'docs'];
/* Colours are stored by their former names. */
const isText = (name: string) => /\.(svelte|ts|md)$/.test(name) && !/\.test\.ts$|^colours\.ts$/.test(name);

const files = FOLDERS.flatMap((folder) =>
	readdirSync(folder, { recursive: true, withFileTypes: true })
		.filter((entry) => entry.isFile() && isText(entry.name))
		.map((entry) => path.join(entry.parentPath, entry.name))
);

it.each(REPLACED)('%s is said otherwise: %s', (words) => {
	const found = files.flatMap((file) =>
		readFileSync(file, 'utf8')
			.split('\n')
			.flatMap((line, at) => (words.test(line) ? [`${file}:${at + 1} ${line.trim().slice(0, 120)}`] : []))
	);
	expect(found).toEqual([]);
});
