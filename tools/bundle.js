// Bundles a program for Node; `dependencies` stay outside, as in the server.
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { build } from 'vite';
import { nodeWorker } from './node-worker.js';
import { root } from './setup.js';

const { dependencies } = JSON.parse(readFileSync(path.join(root, 'package.json'), 'utf8'));

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
		ssr: { noExternal: true, external: Object.keys(dependencies) },
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
