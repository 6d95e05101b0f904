// The terminal door: installs and builds what is missing, then runs the command line.
import { spawnSync } from 'node:child_process';
import path from 'node:path';
import { leanArguments, leanMemory } from './memory.js';
import { ensureReady, root } from './setup.js';

await ensureReady();
const program = path.join(root, 'build', 'programs', 'kovrel.mjs');
// npm runs scripts in the package's folder: paths are meant from where the person stands
const result = spawnSync(process.execPath, [...leanArguments, program, ...process.argv.slice(2)], {
	stdio: 'inherit',
	cwd: process.env.INIT_CWD ?? process.cwd(),
	// the same data folder as the server's, from wherever it is called
	env: { ...leanMemory, ...process.env, KOVREL_DATA: process.env.KOVREL_DATA || path.join(root, 'data') }
});
process.exit(result.status ?? 1);
