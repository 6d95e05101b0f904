import { type ChildProcess, execFileSync, spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { type BrowserContext, type Page, test as playwright } from '@playwright/test';

const programs = path.resolve('build', 'programs');

/** A folder for a test; the test removes it. */
export function temporaryFolder(): string {
	return mkdtempSync(path.join(tmpdir(), 'kovrel-e2e-'));
}

function freePort(): Promise<number> {
	return new Promise((resolve, reject) => {
		const probe = createServer();
		probe.once('error', reject);
		probe.listen(0, '127.0.0.1', () => {
			const { port } = probe.address() as { port: number };
			probe.close(() => resolve(port));
		});
	});
}

/** Who looks after the mailboxes in the tests. */
export const ADMINISTRATOR = {
	name: 'Ylva Strand',
	address: 'ylva@skerryline.example',
	password: 'four ferries to Torsay'
};

/* Comes in by a link as a browser does. @returns the session */
async function signInByLink(url: string, link: string, form: Record<string, string>): Promise<string> {
	const post = () =>
		fetch(url + link, {
			method: 'POST',
			redirect: 'manual',
			headers: { origin: url, accept: 'text/html' },
			body: new URLSearchParams(form)
		});
	// a connection that was kept may have been closed by the server meanwhile
	return sessionIn(await post().catch(post));
}

function sessionIn(answer: Response): string {
	const session = /kovrel-session=([^;]+)/.exec(answer.headers.get('set-cookie') ?? '')?.[1];
	if (!session) throw new Error(`Nobody came in: ${answer.status}`);
	return session;
}

/* Of the administrator of the server that was made last: sessions are kept by the data folder, and cookies by the host. */
let administrator: string | undefined;

/** A test whose browser the administrator has signed in with. */
export const test = playwright.extend({
	context: async ({ context }, use) => {
		if (administrator) await signedIn(context, administrator);
		await use(context);
	}
});

/** Has somebody signed in in a browser. */
export async function signedIn(context: BrowserContext, session: string): Promise<void> {
	await context.addCookies([
		{ name: 'kovrel-session', value: session, domain: '127.0.0.1', path: '/', httpOnly: true }
	]);
}

/* A process of a test; one that does not come to its end when it is asked to fails it, and says what it said. */
class TestProcess {
	readonly child: ChildProcess;
	readonly #ended: Promise<unknown>;
	/* What it wrote, where that is not shown. */
	log = '';

	constructor(child: ChildProcess) {
		this.child = child;
		this.#ended = new Promise((resolve) => child.once('exit', resolve));
		for (const output of [child.stdout, child.stderr])
			output?.on('data', (text: Buffer) => (this.log += text.toString()));
	}

	async end(signal: 'SIGTERM' | 'SIGKILL'): Promise<void> {
		this.child.kill(signal);
		const late = setTimeout(() => this.child.kill('SIGKILL'), 60_000);
		await this.#ended;
		clearTimeout(late);
		if (signal === 'SIGTERM' && this.child.exitCode !== 0)
			throw new Error(`${this.child.spawnargs.join(' ')} did not come to its end:\n${this.log}`);
	}
}

/** The built server with a data folder of its own. */
export class TestServer {
	readonly url: string;
	readonly data: string;
	#process: TestProcess;

	private constructor(url: string, data: string, process: TestProcess) {
		this.url = url;
		this.data = data;
		this.#process = process;
	}

	/** @param environment beside what every test has: where its stand-ins are, what day it is */
	static async start(data = temporaryFolder(), environment: Record<string, string> = {}): Promise<TestServer> {
		const port = await freePort();
		const url = `http://127.0.0.1:${port}`;
		const child = spawn(
			process.execPath,
			['build', ...(existsSync(path.join(data, 'kovrel.sqlite')) ? [] : ['--new'])],
			{
				env: {
					...process.env,
					PORT: String(port),
					HOST: '127.0.0.1',
					ORIGIN: url,
					KOVREL_DATA: data,
					BODY_SIZE_LIMIT: '8M',
					SHUTDOWN_TIMEOUT: '2',
					KOVREL_TIME_ZONE: 'UTC',
					...environment
				},
				stdio: ['ignore', 'pipe', 'pipe']
			}
		);
		const server = new TestProcess(child);
		for (let tries = 0; ; tries++) {
			if (child.exitCode !== null || tries > 300) throw new Error(`The server did not start:\n${server.log}`);
			if (
				await fetch(url).then(
					() => true,
					() => false
				)
			) {
				const started = new TestServer(url, data, server);
				await started.#makeAdministrator(server.log);
				return started;
			}
			await new Promise((resolve) => setTimeout(resolve, 100));
		}
	}

	/** The session of the administrator. */
	get session(): string {
		if (!administrator) throw new Error('There is no administrator yet');
		return administrator;
	}

	/* By the link that the first start prints; where there are people already, their sessions go on. */
	async #makeAdministrator(log: string): Promise<void> {
		const link = /\/come-in\/\S+/.exec(log)?.[0];
		if (link) administrator = await signInByLink(this.url, link, ADMINISTRATOR);
	}

	/** Adds a person, who comes in. @returns their session */
	async addPerson(name: string, role: 'administrator' | 'auditor' | 'colleague'): Promise<string> {
		const address = `${name.toLowerCase().replace(/\W/g, '.')}@skerryline.example`;
		const added = kovrel(this.data, 'person', 'add', name, '--address', address, '--role', role, '--json');
		const { link } = JSON.parse(added.stdout) as { link: string };
		return signInByLink(this.url, link, { password: ADMINISTRATOR.password });
	}

	/** Ends the server; with SIGKILL, as a power cut does. */
	async end(signal: 'SIGTERM' | 'SIGKILL' = 'SIGTERM'): Promise<void> {
		await this.#process.end(signal);
	}

	/** Ends it and removes its data. */
	async remove(): Promise<void> {
		await this.end();
		rmSync(this.data, { recursive: true, force: true });
	}
}

/** What the command line answered. */
export interface Answer {
	status: number | null;
	stdout: string;
	stderr: string;
}

/** Runs the built command line in a data folder, with what else its environment says. */
export function kovrel(
	data: string | { data: string; environment: Record<string, string> },
	...words: string[]
): Answer {
	const { data: folder, environment } = typeof data === 'string' ? { data, environment: {} } : data;
	const { status, stdout, stderr } = spawnSync(process.execPath, [path.join(programs, 'kovrel.mjs'), ...words], {
		encoding: 'utf8',
		// one that hangs fails its test, and no more than that
		timeout: 100_000,
		env: { ...process.env, KOVREL_DATA: folder, KOVREL_TIME_ZONE: 'UTC', ...environment }
	});
	return { status, stdout, stderr };
}

/** The demo's stand-ins for everything outside. */
export class TestStandIns {
	/** The file that says where they listen. */
	readonly file: string;
	readonly post: string;
	#process: TestProcess;

	private constructor(file: string, process: TestProcess) {
		this.file = file;
		this.post = `http://127.0.0.1:${(JSON.parse(readFileSync(file, 'utf8')) as { post: number }).post}`;
		this.#process = process;
	}

	static async start(folder: string): Promise<TestStandIns> {
		const file = path.join(folder, 'standins.json');
		const standIns = new TestProcess(
			spawn(process.execPath, [path.join(programs, 'standins.mjs'), folder], { stdio: 'inherit' })
		);
		for (let tries = 0; !existsSync(file); tries++) {
			if (standIns.child.exitCode !== null || tries > 300) throw new Error('The stand-ins did not start');
			await new Promise((resolve) => setTimeout(resolve, 100));
		}
		return new TestStandIns(file, standIns);
	}

	end(): Promise<void> {
		return this.#process.end('SIGTERM');
	}
}

/** The docket that stands beside every page. */
export const slip = (page: Page) => page.getByRole('complementary', { name: 'Docket' });

/** Drops the draft on it; a page that is left before the server has heard of it would keep it. */
export async function discardDocket(page: Page): Promise<void> {
	const dropped = page.waitForResponse((response) => response.url().endsWith('?/drop'));
	await slip(page).getByRole('button', { name: 'Discard this docket' }).click();
	await dropped;
}

/** The mail of the demo in a folder: a tree of mbox files a mailbox. */
export function demoMail(): string {
	const folder = temporaryFolder();
	execFileSync(process.execPath, [path.join(programs, 'make-demo-mail.mjs'), folder], {
		env: { ...process.env, KOVREL_NOW: '2026-11-25T12:00:00Z' }
	});
	return folder;
}

/** A message of a few lines. */
export function letter(
	subject: string,
	date: string,
	text = 'Words.',
	from = 'Tove <tove@skerryline.example>'
): string {
	return `From: ${from}\nTo: office@skerryline.example\nSubject: ${subject}\nDate: ${date}\n\n${text}\n`;
}

/** An mbox file in a folder. */
export function mboxFile(folder: string, messages: readonly string[], name = 'mail.mbox', status = 'RO'): string {
	const file = path.join(folder, name);
	writeFileSync(
		file,
		messages.map((message) => `From a@b.example Thu Jan  1 00:00:00 1970\nStatus: ${status}\n${message}\n`).join('')
	);
	return file;
}
