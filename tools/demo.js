// One command on a fresh clone: install, build, make the demo's mail, bring it in, start, print the address.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { ensureReady, root, say } from './setup.js';
import { sayAddress, startServer, startStandIns, untilItAnswers } from './start.js';

const began = Date.now();
await ensureReady();

const folder = path.resolve(process.env.KOVREL_DATA || path.join(root, 'demo-data'));
const begun = path.join(folder, '.demo-begun');
const done = path.join(folder, '.demo-is-complete');
if (!existsSync(done)) {
	// what is in a folder that this script did not begin is somebody's mail
	if (existsSync(folder) && readdirSync(folder).length > 0 && !existsSync(begun)) {
		say(`The folder ${folder} is not empty and no demo. Name another one in KOVREL_DATA, or none. Nothing was done.`);
		process.exit(1);
	}
	say('Making the mail of an island ferry operator.');
	rmSync(folder, { recursive: true, force: true });
	mkdirSync(folder, { recursive: true });
	writeFileSync(begun, '');
}

const standIns = await startStandIns(folder);
if (!existsSync(done)) {
	say('Letting it work with Kovrel for eighteen months.');
	program('set-up-office', [], root, { KOVREL_STANDINS: standIns });
}

/**
 * Runs the command line as a person would.
 * @param {string[]} args
 * @param {string} [cwd]
 * @param {Record<string, string>} [environment]
 */
function kovrel(args, cwd = root, environment = {}) {
	program('kovrel', args, cwd, environment);
}

/**
 * @param {string} name
 * @param {string[]} args
 * @param {string} [cwd]
 * @param {Record<string, string>} [environment]
 */
function program(name, args, cwd = root, environment = {}) {
	const result = spawnSync(process.execPath, [path.join(root, 'build', 'programs', `${name}.mjs`), ...args], {
		cwd,
		stdio: ['ignore', 2, 2],
		env: { ...process.env, ...environment, KOVREL_DATA: folder }
	});
	if (result.status !== 0) {
		say('The demo could not be made.');
		process.exit(1);
	}
}

const port = Number(process.env.PORT ?? 4810);
const { post, imap, live } = JSON.parse(readFileSync(standIns, 'utf8'));
const connected = path.join(folder, '.demo-is-connected');
// the mail server has the port that it had, unless another program took it
if (!existsSync(connected) || readFileSync(connected, 'utf8') !== String(imap)) {
	const server = ['--host', '127.0.0.1', '--port', String(imap), '--user', live.user, '--tls', 'none'];
	kovrel(['connect', live.mailbox, ...server], root, { KOVREL_MAIL_PASSWORD: live.password });
	kovrel(['sync', '--mailbox', live.mailbox]);
	writeFileSync(connected, String(imap));
}
if (!existsSync(done)) writeFileSync(done, new Date().toISOString());
startServer({ dataFolder: folder, port, standIns });
await untilItAnswers(port);
say(
	`Ready after ${Math.round((Date.now() - began) / 1000)} s. The demo's data lie in ${path.relative(process.cwd(), folder) || folder}; delete the folder to begin anew.`
);
sayAddress(port);
say('The page where one signs in shows the accounts of the demo.');
say(
	`Outside are stand-ins only: what goes out is at http://127.0.0.1:${post}/ (the terminal finds them with KOVREL_STANDINS=${path.relative(process.cwd(), standIns)}).`
);
