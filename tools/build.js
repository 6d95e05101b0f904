// Builds the server with its worker threads, the command line, and the maker of the demo's mail.
import path from 'node:path';
import { build } from 'vite';
import { nodeWorker } from './node-worker.js';
import { root } from './setup.js';
import { readFileSync } from 'node:fs';

await build({ root });

const { dependencies } = JSON.parse(readFileSync(path.join(root, 'package.json'), 'utf8'));

/**
 * Bundles a program for Node; `dependencies` stay outside, as in the server.
 * @param {string} entry
 * @param {string} name
 */
async function bundle(entry, name) {
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

await bundle('src/cli/kovrel.ts', 'kovrel');
await bundle('demo/make-mail.ts', 'make-demo-mail');
