// Bundles a program for Node with what it needs: looking for each package takes a third of a command's start.
import path from 'node:path';
import { build } from 'vite';
import { nodeWorker, OUTSIDE } from './node-worker.js';
import { root } from './setup.js';

/**
 * @param {string} entry its source
 * @param {string} name of the program in build/programs
 */
export async function bundle(entry, name) {
	await build({
		configFile: false,
		root,
		logLevel: 'warn',
		resolve: { alias: { $lib: path.join(root, 'src/lib') } },
		ssr: { noExternal: true, external: OUTSIDE },
		build: {
			ssr: path.join(root, entry),
			outDir: path.join(root, 'build', 'programs'),
			emptyOutDir: false,
			copyPublicDir: false,
			target: 'node20',
			rolldownOptions: { output: { entryFileNames: `${name}.mjs`, chunkFileNames: `${name}-[hash].mjs` } }
		},
		plugins: [nodeWorker()]
	});
}
