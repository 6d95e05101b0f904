// What a fresh clone needs, made sure of by plain Node before node_modules exists.
import { spawn, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, openSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = path.dirname(path.dirname(fileURLToPath(import.meta.url)));

/** @param {string} text */
export function say(text) {
	process.stderr.write(`${text}\n`);
}

/**
 * Runs a command and shows what it prints; ends this process where it fails.
 * @param {string} command
 * @param {string[]} args
 * @param {import('node:child_process').SpawnSyncOptions & { quiet?: boolean }} [options] quiet: what it prints is shown
 *   only where it fails
 */
export function run(command, args, { quiet = false, ...options } = {}) {
	// what is printed on the way is no result: standard output stays free for it
	const result = spawnSync(command, args, {
		cwd: root,
		stdio: quiet ? ['ignore', 'pipe', 'pipe'] : ['ignore', 2, 2],
		maxBuffer: 2 ** 28,
		...options
	});
	if (result.error || result.status !== 0) {
		if (quiet) say(`${result.stdout ?? ''}${result.stderr ?? ''}`.trim());
		say(`${command} ${args.join(' ')} failed${result.error ? `: ${result.error.message}` : ''}.`);
		process.exit(1);
	}
}

/** @param {string} text */
function hash(text) {
	return createHash('sha256').update(text).digest('hex');
}

/**
 * Whether the mark in a file tells that this state was reached before.
 * @param {string} file
 * @param {string} state
 */
function isMarked(file, state) {
	return existsSync(file) && readFileSync(file, 'utf8') === state;
}

/** The one package with a part that is compiled, which takes longer than all the rest of the installing. */
const COMPILED = 'better-sqlite3';

/**
 * Compiles it in a process of its own.
 * @param {NodeJS.ProcessEnv} env
 * @returns {Promise<void>}
 */
function compile(env) {
	const log = path.join(root, 'node_modules', '.kovrel-compiling');
	// a pipe would be full while this process waits for something else
	const output = openSync(log, 'w');
	const compiling = spawn('npm', ['rebuild', COMPILED, '--loglevel=error'], {
		cwd: root,
		env,
		stdio: ['ignore', output, output]
	});
	const stop = () => void compiling.kill();
	process.once('exit', stop);
	return new Promise((resolve) =>
		compiling.once('exit', (status) => {
			process.off('exit', stop);
			if (status === 0) return resolve();
			say(`${readFileSync(log, 'utf8').trim()}\nCompiling ${COMPILED} failed.`);
			return process.exit(1);
		})
	);
}

/**
 * Installs the packages where the lock file has changed since.
 * @param {() => void | Promise<void>} [meanwhile] is done while the last of them compiles, which it must not need
 */
export async function ensureInstalled(meanwhile = () => {}) {
	const mark = path.join(root, 'node_modules', '.kovrel-installed');
	const state = hash(readFileSync(path.join(root, 'package-lock.json'), 'utf8') + process.version);
	if (isMarked(mark, state)) return meanwhile();
	say('Installing packages. About two minutes the first time: most of it compiles the SQLite binding.');
	/** @type {NodeJS.ProcessEnv} */
	const env = { ...process.env };
	const prefix = path.dirname(path.dirname(process.execPath));
	// the compiler uses the headers of the running Node instead of fetching them
	if (existsSync(path.join(prefix, 'include', 'node'))) env.npm_config_nodedir = prefix;
	run('npm', ['ci', '--ignore-scripts', '--loglevel=error'], { env, quiet: true });
	await Promise.all([compile(env), meanwhile()]);
	writeFileSync(mark, state);
}

/** Installs and builds what is missing. */
export async function ensureReady() {
	// bundling reads the sources of the binding, and does not load it
	await ensureInstalled(ensureBuilt);
}

const SOURCES = [
	'src',
	'static',
	'tools',
	'demo',
	'package-lock.json',
	'svelte.config.js',
	'vite.config.ts',
	'tsconfig.json'
];

/** @param {string} place @returns {string[]} */
function filesBelow(place) {
	const full = path.join(root, place);
	if (!existsSync(full)) return [];
	const entries = readdirSync(full, { withFileTypes: true, recursive: true });
	return entries.filter((entry) => entry.isFile()).map((entry) => path.join(entry.parentPath, entry.name));
}

/** A hash over everything that the build reads. */
export function sourceState() {
	const files = SOURCES.flatMap((place) =>
		existsSync(path.join(root, place)) && !place.includes('.') ? filesBelow(place) : [path.join(root, place)]
	).filter((file) => existsSync(file) && !file.endsWith('.test.ts'));
	const state = createHash('sha256');
	for (const file of files.sort()) state.update(path.relative(root, file)).update(readFileSync(file));
	return state.digest('hex');
}

/** Builds the server and the command line where a source has changed since. */
export function ensureBuilt() {
	const mark = path.join(root, 'build', '.kovrel-built');
	const state = sourceState();
	if (isMarked(mark, state)) return;
	say('Building (about half a minute).');
	run(process.execPath, [path.join(root, 'tools', 'build.js')], { quiet: true });
	mkdirSync(path.dirname(mark), { recursive: true });
	writeFileSync(mark, state);
}
