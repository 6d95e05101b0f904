// Starts the built server on loopback: npm start [-- --new], --new where a new archive is to be begun.
import { spawn } from 'node:child_process';
import { existsSync, rmSync } from 'node:fs';
import path from 'node:path';
import { leanMemory } from './memory.js';
import { ensureReady, root, say } from './setup.js';

/**
 * @param {{ dataFolder: string, port: number, standIns?: string, words?: string[] }} options standIns: the file that says where they listen; words: what is said to the server
 * @returns {import('node:child_process').ChildProcess}
 */
export function startServer({ dataFolder, port, standIns, words = [] }) {
	const address = `http://127.0.0.1:${port}`;
	const server = spawn(process.execPath, [path.join(root, 'build'), ...words], {
		stdio: ['ignore', 'inherit', 'inherit'],
		env: {
			...leanMemory,
			...process.env,
			NODE_ENV: 'production',
			KOVREL_DATA: dataFolder,
			HOST: '127.0.0.1',
			PORT: String(port),
			// behind a proxy with https, its address
			ORIGIN: process.env.ORIGIN || address,
			// uploads come in pieces of four megabytes
			BODY_SIZE_LIMIT: '8M',
			SHUTDOWN_TIMEOUT: '5',
			...(standIns === undefined ? {} : { KOVREL_STANDINS: standIns })
		}
	});
	for (const signal of /** @type {const} */ (['SIGINT', 'SIGTERM'])) process.on(signal, () => server.kill('SIGTERM'));
	server.on('exit', (code) => process.exit(code ?? 0));
	return server;
}

/**
 * Starts the stand-ins of the demo, which end when this process does.
 * @param {string} dataFolder
 * @returns {Promise<string>} the file that says where they listen
 */
export async function startStandIns(dataFolder) {
	const folder = path.join(dataFolder, 'standins');
	const file = path.join(folder, 'standins.json');
	rmSync(file, { force: true });
	const standIns = spawn(process.execPath, [path.join(root, 'build', 'programs', 'standins.mjs'), folder], {
		stdio: ['ignore', 'inherit', 'inherit', 'ipc']
	});
	process.on('exit', () => standIns.kill('SIGTERM'));
	for (let tries = 0; tries < 200 && standIns.exitCode === null; tries++) {
		if (existsSync(file)) return file;
		await new Promise((resolve) => setTimeout(resolve, 100));
	}
	throw new Error('The stand-ins do not start');
}

/**
 * Waits until the server answers.
 * @param {number} port
 */
export async function untilItAnswers(port) {
	for (let tries = 0; tries < 200; tries++) {
		const answer = await fetch(`http://127.0.0.1:${port}/`).catch(() => undefined);
		if (answer && answer.status < 500) return;
		await new Promise((resolve) => setTimeout(resolve, 100));
	}
	throw new Error('The server does not answer');
}

/** @param {number} port */
export function sayAddress(port) {
	say(`\nKovrel is at http://127.0.0.1:${port}/`);
	say('It listens on this machine only; for others, put a proxy with https in front of it. Control-C ends it.');
}

if (process.argv[1] === path.join(root, 'tools', 'start.js')) {
	await ensureReady();
	const port = Number(process.env.PORT ?? 4810);
	const dataFolder = path.resolve(process.env.KOVREL_DATA || path.join(root, 'data'));
	startServer({ dataFolder, port, words: process.argv.slice(2) });
	await untilItAnswers(port);
	sayAddress(port);
}
