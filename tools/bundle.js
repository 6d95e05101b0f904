// Bundles the programs that are started by hand, or by another one.
import path from 'node:path';
import { buildProgram } from './node-program.js';
import { nodeWorker } from './node-worker.js';
import { root } from './setup.js';

/**
 * @param {string} entry its source
 * @param {string} name of the program in build/programs
 * @param {{ cached?: boolean }} [options] see {@link buildProgram}
 */
export async function bundle(entry, name, { cached = false } = {}) {
	const outDir = path.join(root, 'build', 'programs');
	await buildProgram({ root, entry, outDir, name, cached, plugins: [nodeWorker({ areBuilt: true })] });
}
