// Bundles a program or a worker thread for Node with what it needs: looking for each package takes a third of a start.
import { copyFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { build } from 'vite';

/** Packages with parts of machine code, with parts that are named at run time, or with files beside them: never bundled. */
export const OUTSIDE = ['@node-rs/argon2', 'better-sqlite3', 'selfsigned', 'smtp-server', 'tinypool', 'unpdf'];

/* Of other databases: Knex would load them if it were asked to. */
export const OTHER_DRIVERS = /^(mariadb|mysql2?|oracledb|pg(-native|-query-stream)?|sqlite3|tedious)(\/|$)/;

/**
 * Code compiled before cannot import by itself (Node 20): what starts it does it for it.
 *
 * @type {import('vite').Plugin}
 */
const importsOutside = {
	name: 'imports-outside',
	// the lines stay where they are
	renderChunk: (code) => ({ code: code.replaceAll(/\bimport\((?="[^.])/g, 'importOutside('), map: null })
};

/**
 * @param {object} options
 * @param {string} options.root of the project
 * @param {string} options.entry its source
 * @param {string} options.outDir the folder it goes to
 * @param {string} options.name its file is NAME.mjs
 * @param {import('vite').PluginOption[]} options.plugins
 * @param {string[]} [options.external] packages that are found at run time
 * @param {boolean} [options.cached] whether it starts with code compiled before; it may not wait at its top level then
 * @param {boolean} [options.sourcemap]
 * @returns {Promise<string>} its file
 */
export async function buildProgram(options) {
	const { root, entry, outDir, name, plugins, external = OUTSIDE, cached = false, sourcemap = false } = options;
	// compiled code is kept by the name of its file, which another text changes
	const [entryName, extension] = cached ? [`${name}-[hash]`, 'cjs'] : [name, 'mjs'];
	const built = await build({
		configFile: false,
		root,
		logLevel: 'warn',
		resolve: { alias: { $lib: path.join(root, 'src/lib') } },
		ssr: { noExternal: true, external },
		build: {
			ssr: path.resolve(root, entry),
			outDir,
			emptyOutDir: false,
			copyPublicDir: false,
			sourcemap,
			target: 'node20',
			rolldownOptions: {
				external: OTHER_DRIVERS,
				// a thread that asks no database loads none
				treeshake: { moduleSideEffects: [{ test: /[\\/]node_modules[\\/](knex|pino)[\\/]/, sideEffects: false }] },
				output: {
					format: cached ? 'cjs' : 'es',
					exports: 'named',
					entryFileNames: `${entryName}.${extension}`,
					chunkFileNames: `${name}-[hash].${extension}`
				}
			}
		},
		plugins: [...plugins, cached && importsOutside]
	});
	const file = path.join(outDir, `${name}.mjs`);
	if (cached) {
		const [{ output }] = /** @type {[import('vite').Rolldown.RolldownOutput]} */ ([built].flat());
		writeStart(file, output[0]);
		removeFormer(
			outDir,
			name,
			output.map(({ fileName }) => fileName)
		);
	}
	return file;
}

/**
 * @param {string} folder
 * @param {string} name
 * @param {string[]} present
 */
function removeFormer(folder, name, present) {
	for (const file of readdirSync(folder))
		if (file.startsWith(`${name}-`) && file.includes('.cjs') && !present.some((one) => file.startsWith(one)))
			rmSync(path.join(folder, file));
}

/**
 * The module that starts a program with its compiled code, and hands its exports on.
 *
 * @param {string} file
 * @param {{ fileName: string, exports: string[] }} entry
 */
function writeStart(file, { fileName, exports }) {
	copyFileSync(path.join(import.meta.dirname, 'start-cached.js'), path.join(path.dirname(file), 'start-cached.mjs'));
	const handedOn = exports.map((word) =>
		word === 'default' ? 'export default program.default;' : `export const ${word} = program.${word};`
	);
	writeFileSync(
		file,
		[
			`import { fileURLToPath } from 'node:url';`,
			`import { startCached } from './start-cached.mjs';`,
			`const program = startCached(fileURLToPath(new URL('./${fileName}', import.meta.url)));`,
			...handedOn,
			''
		].join('\n')
	);
}
