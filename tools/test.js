// Everything that is checked, in one command: types, lint, unit tests, end-to-end tests. Installs what is missing.
import { spawn, spawnSync } from 'node:child_process';
import { accessSync, constants, existsSync, mkdirSync, readFileSync, readdirSync, rmSync, statfsSync } from 'node:fs';
import { setPriority } from 'node:os';
import path from 'node:path';
import { CHROMIUM_PACKAGES, chromiumOptions } from './chromium.js';
import { ensureInstalled, root, run, say } from './setup.js';

const CORPORA = [
	'golang-github-gatherstars-com-jwz-dev',
	'libpython3.11-testsuite',
	'golang-github-jhillyerd-enmime-dev'
];

/** @param {string} command @param {string[]} args @param {string} [cwd] */
function succeeds(command, args, cwd = root) {
	return spawnSync(command, args, { cwd, stdio: 'ignore' }).status === 0;
}

let listsAreNew = false;
/** @param {string[]} args @param {string} [cwd] */
function apt(args, cwd) {
	if (!listsAreNew) succeeds('apt-get', ['update', '-qq']);
	listsAreNew = true;
	return succeeds('apt-get', args, cwd);
}

/** Debian's Chromium and Python: installed where that is allowed, else named. */
function ensurePrograms() {
	const install = (/** @type {string[]} */ ...packages) => {
		say(`Installing ${packages.join(' and ')} from Debian's packages.`);
		return process.getuid?.() === 0 && apt(['install', '-y', '-qq', '--no-install-recommends', ...packages]);
	};
	if (!process.env.CHROMIUM_PATH && !existsSync(`/usr/bin/${CHROMIUM_PACKAGES[0]}`))
		CHROMIUM_PACKAGES.some((name) => install(name));
	const missing = [
		...(existsSync(chromiumOptions.executablePath) ? [] : ['chromium']),
		...(succeeds('python3', ['--version']) ? [] : ['python3'])
	];
	if (missing.length === 0 || install(...missing)) return;
	say(
		`The tests need ${missing.join(' and ')}, which could not be installed from here: run "apt-get install ${missing.join(' ')}" as root, or name a Chromium in CHROMIUM_PATH.`
	);
	process.exit(1);
}

/** Debian's IMAP server, for threads: without it (or without being root) that one comparison is left out, and says so. */
function ensureImapServer() {
	if (succeeds('dovecot', ['--version'])) return;
	say("Installing dovecot-imapd from Debian's packages: threads are compared with what it answers.");
	if (process.getuid?.() !== 0 || !apt(['install', '-y', '-qq', '--no-install-recommends', 'dovecot-imapd']))
		say('dovecot-imapd could not be installed from here: the comparison of threads is left out.');
}

/** Debian's Sieve compiler: without it, scripts are not compiled in the tests, which say so. */
function ensureSieve() {
	if (existsSync('/usr/bin/sievec') && existsSync('/usr/lib/dovecot/managesieve')) return;
	say(
		"Installing dovecot-sieve and dovecot-managesieved from Debian's packages: the scripts of standing decisions are compiled, run and put there."
	);
	if (
		process.getuid?.() !== 0 ||
		!apt(['install', '-y', '-qq', '--no-install-recommends', 'dovecot-sieve', 'dovecot-managesieved'])
	)
		say('dovecot-sieve could not be installed from here: what it says of scripts is left out.');
}

/** Debian's strace, which records what is written for power cuts: without it they are left out, and the tests say so. */
function ensureStrace() {
	if (succeeds('strace', ['-V'])) return;
	say("Installing strace from Debian's packages: writes are recorded, and power cuts tried.");
	if (process.getuid?.() !== 0 || !apt(['install', '-y', '-qq', '--no-install-recommends', 'strace']))
		say('strace could not be installed from here: power cuts are left out.');
}

/** Real mail to read, from Debian's packages: fetched once, never committed. */
function ensureCorpora() {
	const files = path.join(root, '.cache', 'corpora', 'files');
	if (existsSync(path.join(files, '.complete'))) return;
	say("Fetching real mail for the tests from Debian's packages.");
	const packages = path.join(root, '.cache', 'corpora', 'packages');
	rmSync(path.join(root, '.cache', 'corpora'), { recursive: true, force: true });
	mkdirSync(packages, { recursive: true });
	mkdirSync(files, { recursive: true });
	if (!apt(['download', '-qq', ...CORPORA], packages)) {
		say(
			`The tests read ${CORPORA.join(', ')}, which apt-get could not download. The tests that need them will say so.`
		);
		return;
	}
	for (const file of readdirSync(packages)) run('dpkg-deb', ['-x', path.join(packages, file), files]);
	run('touch', [path.join(files, '.complete')]);
}

/* The priority of the threads that read mail (mail/reading/parse.worker). */
const NICE = 10;

/**
 * @param {string} name
 * @param {string[]} args
 * @param {NodeJS.ProcessEnv} [env]
 * @returns {Promise<boolean>}
 */
function step(name, args, env = {}) {
	const began = Date.now();
	// nothing is fetched from here on, and each of hundreds of processes would read those certificates first
	const inherited = { ...process.env };
	delete inherited.NODE_EXTRA_CA_CERTS;
	const run = spawn('npm', ['run', '--silent', ...args], {
		cwd: root,
		stdio: 'inherit',
		env: { ...inherited, ...env }
	});
	// threads that read mail stand behind others, and beside tests on every processor would stand still: all are equal
	if (run.pid !== undefined) setPriority(run.pid, NICE);
	const stop = () => void run.kill();
	process.once('exit', stop);
	return new Promise((resolve) =>
		run.once('exit', (status) => {
			process.off('exit', stop);
			say(`${status === 0 ? 'passed' : 'FAILED'}: ${name}, ${Math.round((Date.now() - began) / 1000)} s`);
			resolve(status === 0);
		})
	);
}

/** Where the data folders of the tests lie: in memory where there is room, as waiting for a disk takes half of their time. */
function temporaryFolders() {
	const memory = '/dev/shm';
	try {
		accessSync(memory, constants.W_OK);
		const { bavail, bsize } = statfsSync(memory);
		return process.env.TMPDIR || bavail * bsize < 4e9 ? {} : { TMPDIR: memory };
	} catch {
		return {};
	}
}

/** @param {string} file */
function readJson(file) {
	try {
		return JSON.parse(readFileSync(file, 'utf8'));
	} catch {
		return undefined;
	}
}

const results = path.join(root, 'test-results-json');
rmSync(results, { recursive: true, force: true });
mkdirSync(results);
const unitFile = path.join(results, 'unit.json');
const endToEndFile = path.join(results, 'end-to-end.json');

/** @type {boolean[]} */
const passed = [];
// each needs one processor: side by side none of them is idle. The build writes what the types are checked against
const afterBuild = async () => [await step('build', ['build:needed']), await step('types', ['check'])];
await ensureInstalled(async () => {
	const checks = [afterBuild(), step('lint', ['lint'])];
	ensurePrograms();
	ensureImapServer();
	ensureSieve();
	ensureStrace();
	ensureCorpora();
	passed.push(...(await Promise.all(checks)).flat());
});
passed.push(
	await step(
		'unit tests',
		['test:unit', '--', '--reporter=dot', '--reporter=json', `--outputFile.json=${unitFile}`],
		temporaryFolders()
	)
);
passed.push(
	await step('end-to-end tests', ['test:e2e', '--', '--reporter=list,json'], {
		...temporaryFolders(),
		PLAYWRIGHT_JSON_OUTPUT_NAME: endToEndFile
	})
);

const unit = readJson(unitFile);
const endToEnd = readJson(endToEndFile)?.stats;
rmSync(results, { recursive: true, force: true });
const good = (unit?.numPassedTests ?? 0) + (endToEnd?.expected ?? 0);
const bad =
	(unit?.numFailedTests ?? 0) + (endToEnd?.unexpected ?? 0) + (endToEnd?.flaky ?? 0) + (unit && endToEnd ? 0 : 1);
process.stdout.write(`unit: ${unit?.numPassedTests ?? 0} passed, ${unit?.numFailedTests ?? 0} failed\n`);
process.stdout.write(`browser: ${endToEnd?.expected ?? 0} passed, ${endToEnd?.unexpected ?? 0} failed\n`);
process.stdout.write(`${good} passed, ${bad} failed\n`);
process.exit(passed.every(Boolean) && bad === 0 && good > 0 ? 0 : 1);
