// Writes the mail of the demo as mbox files, one a folder: make-demo-mail FOLDER [SEED]
import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { Scenario } from './scenario.ts';

const [out, seed = '4711'] = process.argv.slice(2);
if (!out) {
	process.stderr.write('usage: make-demo-mail FOLDER [SEED]\n');
	process.exit(2);
}
const today = process.env.KOVREL_NOW ? new Date(process.env.KOVREL_NOW) : new Date();
const made: { mailbox: string; quota: string }[] = [];
for (const { mailbox, quota, folders } of new Scenario(Number(seed), today).mailboxes()) {
	made.push({ mailbox, quota });
	for (const { path: folder, mbox } of folders) {
		const file = path.join(out, mailbox, `${folder}.mbox`);
		mkdirSync(path.dirname(file), { recursive: true });
		writeFileSync(file, mbox);
	}
}
writeFileSync(path.join(out, 'mailboxes.json'), JSON.stringify(made));
