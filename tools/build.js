// Builds the server with its worker threads, the command line, the maker of the demo's mail, and its stand-ins.
import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { build } from 'vite';
import { bundle } from './bundle.js';
import { root } from './setup.js';

await build({ root });
await bundle('src/cli/start.ts', 'kovrel');
await bundle('src/cli/kovrel.ts', 'kovrel-commands', { cached: true });
await bundle('src/cli/help-texts.ts', 'kovrel-help');
await bundle('demo/make-mail.ts', 'make-demo-mail');
await bundle('demo/standins.ts', 'standins');
await bundle('demo/set-up-office.ts', 'set-up-office');

// what commands say of themselves is written down, and answered without loading them
const programs = path.join(root, 'build', 'programs');
const said = spawnSync(process.execPath, [path.join(programs, 'kovrel-help.mjs')], {
	encoding: 'utf8',
	maxBuffer: 2 ** 26
});
if (said.status !== 0) throw new Error(`The help of the commands could not be written: ${said.stderr}`);
writeFileSync(path.join(programs, 'kovrel-help.json'), said.stdout);
