// Starts a bundled program with the code that was compiled for it before: compiling it anew takes a fifth of its start.
// The build puts this beside the programs and worker threads.
import { createHash } from 'node:crypto';
import { readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import path from 'node:path';
import { cachedDataVersionTag } from 'node:v8';
import { Script } from 'node:vm';
import { threadId } from 'node:worker_threads';

/* What is compiled in this time is what a start needs. */
const STARTED_MS = 1_500;
/* Another Node, other options or another processor has code of its own. */
const SUFFIX = `.${cachedDataVersionTag().toString(36)}.cache`;

/** @type {Map<string, { exports: unknown }>} */
const loaded = new Map();
/** @type {Map<string, Script>} */
const uncached = new Map();

/* V8 checks no sums of its own: on compiled code that is damaged, the process would end. */
const SUM = 'sha1';
const SUM_BYTES = 20;
/** @param {Buffer} code */
const sumOf = (code) => createHash(SUM).update(code).digest();

/** @param {string} file @returns {Buffer | undefined} what was compiled before */
function readCode(file) {
	try {
		const stored = readFileSync(file + SUFFIX);
		const code = stored.subarray(SUM_BYTES);
		return sumOf(code).equals(stored.subarray(0, SUM_BYTES)) ? code : undefined;
	} catch {
		// the first start has none
		return undefined;
	}
}

/** Leaves the compiled code for the next start; where the folder cannot be written, that compiles anew as well. */
function leaveCode() {
	for (const [file, script] of uncached) {
		const part = `${file}.${process.pid}-${threadId}.part`;
		try {
			const code = script.createCachedData();
			writeFileSync(part, Buffer.concat([sumOf(code), code]));
			renameSync(part, file + SUFFIX);
		} catch {
			rmSync(part, { force: true });
			break;
		}
	}
	uncached.clear();
}

/** @param {string} file */
function compile(file) {
	const cachedData = readCode(file);
	const script = new Script(
		// on one line, so that the lines of the program keep their numbers
		`(function (exports, require, module, __filename, __dirname, importOutside) {${readFileSync(file, 'utf8')}\n})`,
		{ filename: file, cachedData }
	);
	if (cachedData === undefined || script.cachedDataRejected) {
		if (uncached.size === 0) {
			setTimeout(leaveCode, STARTED_MS).unref();
			process.once('exit', leaveCode);
		}
		uncached.set(file, script);
	}
	return script;
}

/**
 * Runs a program that was bundled as CommonJS.
 *
 * @param {string} file its path
 * @returns {any} its exports
 */
export function startCached(file) {
	const known = loaded.get(file);
	if (known) return known.exports;
	const module = { exports: {} };
	loaded.set(file, module);
	const folder = path.dirname(file);
	const outside = createRequire(file);
	/** @param {string} name */
	const require = (name) => (name.startsWith('./') ? startCached(path.join(folder, name)) : outside(name));
	/** @param {string} name */
	const importOutside = (name) => import(name);
	compile(file).runInThisContext()(module.exports, require, module, file, folder, importOutside);
	return module.exports;
}
