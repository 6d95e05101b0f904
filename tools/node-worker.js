// A Vite plugin for node:worker_threads.
//   import parseWorker from './parse.worker.ts?nodeworker';
//   new Worker(parseWorker)           // a file path: the same in dev, tests, preview and `node build`
// The entry is bundled by a nested Vite build into .svelte-kit/node-workers/NAME.mjs; the adapter wrapper
// copies that folder beside the built server, where the command line finds it too.
import { existsSync, readFileSync, cpSync } from 'node:fs';
import path from 'node:path';
import { buildProgram } from './node-program.js';

const SUFFIX = '?nodeworker';
const DIR = '.svelte-kit/node-workers';

/**
 * @param {{ areBuilt?: boolean }} [options] whether the build of the server has bundled the threads already
 * @returns {import('vite').Plugin}
 */
export function nodeWorker({ areBuilt = false } = {}) {
	let root = process.cwd();
	let isBuild = false;

	return {
		name: 'node-worker',
		enforce: 'pre',
		configResolved(config) {
			root = config.root;
			isBuild = config.command === 'build';
		},
		async resolveId(source, importer) {
			if (!source.endsWith(SUFFIX)) return;
			const hit = await this.resolve(source.slice(0, -SUFFIX.length), importer, { skipSelf: true });
			if (!hit) throw new Error(`node-worker: cannot find ${source}`);
			return hit.id + SUFFIX;
		},
		async load(id) {
			if (!id.endsWith(SUFFIX)) return;
			const entry = id.slice(0, -SUFFIX.length);
			const name = path.basename(entry).replace(/\.[cm]?[jt]s$/, '');
			if (areBuilt) return foundAtRunTime(name);
			const pkg = JSON.parse(readFileSync(path.join(root, 'package.json'), 'utf8'));
			const outDir = path.join(root, DIR);
			/** @type {string[]} */
			let modules = [];
			const file = await buildProgram({
				root,
				entry,
				outDir,
				name,
				cached: isBuild,
				sourcemap: true,
				// in the built server as in programs; beside tests and sources, packages lie where they are found
				...(isBuild ? {} : { external: Object.keys(pkg.dependencies ?? {}) }),
				plugins: [
					nodeWorker(), // a worker may start workers of its own
					{
						name: 'node-worker:modules',
						buildEnd() {
							modules = [...this.getModuleIds()].filter((m) => path.isAbsolute(m) && existsSync(m));
						}
					}
				]
			});
			for (const m of modules) this.addWatchFile(m);
			return isBuild ? foundAtRunTime(name) : `export default ${JSON.stringify(file)};`;
		}
	};
}

/** @param {string} name */
function foundAtRunTime(name) {
	// In the build the path is found at run time by walking up from the bundle's own place:
	// build/server/... -> build/node-workers, .svelte-kit/output/... -> .svelte-kit/node-workers
	return `
import { existsSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
let dir = path.dirname(fileURLToPath(import.meta.url));
let file;
for (let i = 0; i < 8 && !file; i++, dir = path.dirname(dir)) {
	const candidate = path.join(dir, 'node-workers', ${JSON.stringify(`${name}.mjs`)});
	if (existsSync(candidate)) file = candidate;
}
if (!file) throw new Error(${JSON.stringify(`node-workers/${name}.mjs not found beside the server`)});
export default file;`;
}

/**
 * @param {import('@sveltejs/kit').Adapter} adapter
 * @param {string} out
 * @returns {import('@sveltejs/kit').Adapter}
 */
export function withNodeWorkers(adapter, out) {
	return {
		...adapter,
		async adapt(builder) {
			await adapter.adapt(builder);
			if (existsSync(DIR)) cpSync(DIR, path.join(out, 'node-workers'), { recursive: true });
		}
	};
}
