import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { onTestFinished } from 'vitest';
import type { Context } from '../context/context.ts';
import { administratorNamed } from '../../../core/access/roles.ts';
import { DATA_ID, databaseFile, hasDataFile, inTransaction } from '../database/index.ts';
import { openContext, prepareDataFolder } from '../process/open-context.ts';

/** A folder that is removed when the test ends. */
export function temporaryFolder(): string {
	const folder = mkdtempSync(path.join(tmpdir(), 'kovrel-test-'));
	onTestFinished(() => rmSync(folder, { recursive: true, force: true }));
	return folder;
}

/* Opens a data folder at a fixed instant, in UTC. */
async function openPrepared(folder: string, { isFirst = false } = {}): Promise<Context> {
	process.env.KOVREL_NOW = '2026-11-25T12:00:00Z';
	process.env.KOVREL_TIME_ZONE = 'UTC';
	await prepareDataFolder(folder, { isFirst });
	return openContext(folder, { actor: administratorNamed('tester') });
}

/** The bytes of a new data file that was filled, without an identity: filling it takes longer than most tests. */
export async function dataFileOf(fill: (context: Context) => Promise<unknown> = async () => {}): Promise<Buffer> {
	const folder = mkdtempSync(path.join(tmpdir(), 'kovrel-test-'));
	try {
		const context = await openPrepared(folder, { isFirst: true });
		await fill(context);
		const forget = 'DELETE FROM setting WHERE key IN (?, ?)';
		await inTransaction(context.db, (trx) => trx.raw(forget, [DATA_ID, 'device-secret']));
		await context.db.destroy();
		return readFileSync(databaseFile(folder));
	} finally {
		rmSync(folder, { recursive: true });
	}
}

/* Migrating alone takes longer than most tests. */
let newDataFile: Promise<Buffer> | undefined;

/**
 * An open data folder at a fixed instant, in UTC.
 *
 * @param dataFile what it begins with, by {@link dataFileOf}; undefined: an empty one
 */
export async function openOffice(folder = temporaryFolder(), dataFile?: Buffer): Promise<Context> {
	if (!hasDataFile(folder)) {
		mkdirSync(folder, { recursive: true });
		writeFileSync(databaseFile(folder), dataFile ?? (await (newDataFile ??= dataFileOf())));
	}
	const context = await openPrepared(folder);
	onTestFinished(() => context.db.destroy());
	return context;
}

/** A message of a few lines. */
export function letter(
	subject: string,
	date: string,
	text = 'Words.',
	from = 'Tove <tove@skerryline.example>'
): string {
	return `From: ${from}\nTo: office@skerryline.example\nSubject: ${subject}\nDate: ${date}\nMessage-ID: <${subject.replace(/\W/g, '')}@x.example>\n\n${text}\n`;
}

/** An mbox file of such messages, in a folder of the test. */
export function mboxFile(messages: readonly string[], header = ''): string {
	const file = path.join(temporaryFolder(), 'mail.mbox');
	writeFileSync(
		file,
		messages.map((message) => `From a@b.example Thu Jan  1 00:00:00 1970\n${header}${message}\n`).join(''),
		'latin1'
	);
	return file;
}
