import { spawn } from 'node:child_process';
import { cpSync, existsSync, readdirSync, rmSync } from 'node:fs';
import path from 'node:path';
import { expect, test } from '@playwright/test';
import Database from 'better-sqlite3';
import { Dice } from '../demo/random.ts';
import { kovrel, letter, mboxFile, temporaryFolder } from './server.ts';

/*
 * What an administrator does from the terminal, killed (SIGKILL) at a random moment: nothing acknowledged is lost, everything is
 * whole, and the same work comes to its end when it is asked for again. More rounds: KOVREL_KILLS_EACH=50, other moments:
 * KOVREL_SEED.
 */
const ROUNDS = Number(process.env.KOVREL_KILLS_EACH ?? 1);
const MESSAGES = ROUNDS > 1 ? 4_000 : 1_000;
const DESTROY = ['bin', 'empty', '--mailbox', 'Office', '--confirm', 'Office'];
const ALL = ['--mailbox', 'Office', '--before', '2030-01-01'];
const dice = new Dice(Number(process.env.KOVREL_SEED ?? 41));
const folder = temporaryFolder();
const whole = path.join(folder, 'whole');
const archived = path.join(folder, 'archived');
const binned = path.join(folder, 'binned');
let mail = '';

function done(data: string, ...words: string[]): Record<string, unknown> {
	const { status, stdout, stderr } = kovrel(data, ...words, '--json');
	expect(status, `${words.join(' ')}\n${stderr}`).toBe(0);
	return JSON.parse(stdout) as Record<string, unknown>;
}

function asked<T>(data: string, query: string): T {
	const db = new Database(path.join(data, 'kovrel.sqlite'), { readonly: true });
	try {
		return db.prepare(query).get() as T;
	} finally {
		db.close();
	}
}

const states = (data: string) =>
	asked<{ live: number; archived: number }>(
		data,
		`SELECT total(state = 'live') AS live, total(state = 'archived') AS archived FROM item`
	);
const lastDocket = (data: string) =>
	asked<{ id: number; state: string } | undefined>(data, 'SELECT id, state FROM docket ORDER BY id DESC LIMIT 1');

test.beforeAll(() => {
	const letters = Array.from({ length: MESSAGES }, (_, n) =>
		letter(`Berth ${n}`, 'Mon, 3 Feb 2020 10:00:00 +0000', `Words of berth ${n}. `.repeat(20))
	);
	mail = mboxFile(folder, letters, 'mail.mbox');
	done(whole, 'import', mail, '--mailbox', 'Office', '--new');
	cpSync(whole, archived, { recursive: true });
	done(archived, 'archive', ...ALL);
	cpSync(whole, binned, { recursive: true });
	done(binned, 'docket', 'new', 'delete', '--mailbox', 'Office', '--by', 'year', '--key', '2020');
	done(binned, 'docket', 'carry-out', '1');
});
test.afterAll(() => rmSync(folder, { recursive: true }));

/* Starts a command and kills it after some milliseconds; one that was faster has come to its end. */
async function killed(data: string, words: readonly string[], after: number): Promise<void> {
	const child = spawn(process.execPath, ['build/programs/kovrel.mjs', ...words], {
		env: { ...process.env, KOVREL_DATA: data },
		stdio: 'ignore'
	});
	const ended = new Promise((resolve) => child.once('exit', resolve));
	setTimeout(() => child.kill('SIGKILL'), after);
	await ended;
}

interface Work {
	name: string;
	from: string | undefined;
	words: (data: string) => string[];
	/** What comes to its end what was begun. */
	goOn: (data: string) => string[];
	/** How many messages are left at its end. */
	left?: number;
	check: (data: string) => void;
}

const saved = () => path.join(folder, 'saved', readdirSync(path.join(folder, 'saved')).sort()[0] ?? '');
const backups = (data: string) => readdirSync(`${data}-backups`);
const works: Work[] = [
	{
		name: 'importing',
		from: undefined,
		words: () => ['import', mail, '--mailbox', 'Office', '--new'],
		goOn: (data) => [
			'import',
			mail,
			'--mailbox',
			'Office',
			...(existsSync(path.join(data, 'kovrel.sqlite')) ? [] : ['--new'])
		],
		check: (data) => expect(states(data)).toEqual({ live: MESSAGES, archived: 0 })
	},
	{
		name: 'archiving',
		from: whole,
		words: () => ['archive', ...ALL],
		goOn(data) {
			const docket = lastDocket(data);
			return docket?.state === 'carrying-out' ? ['docket', 'carry-out', String(docket.id)] : ['archive', ...ALL];
		},
		check: (data) => expect(states(data)).toEqual({ live: 0, archived: MESSAGES })
	},
	{
		name: 'taking back',
		from: archived,
		words: () => ['docket', 'take-back', '1'],
		goOn: (data) => (lastDocket(data)?.state === 'taken-back' ? ['docket', 'list'] : ['docket', 'take-back', '1']),
		check: (data) => expect(states(data)).toEqual({ live: MESSAGES, archived: 0 })
	},
	{
		name: 'destroying',
		from: binned,
		words: () => DESTROY,
		goOn(data) {
			const docket = lastDocket(data);
			return docket?.state === 'carrying-out' ? ['docket', 'carry-out', String(docket.id)] : DESTROY;
		},
		left: 0,
		check: (data) => expect(asked(data, 'SELECT count(*) AS n FROM content')).toEqual({ n: 0 })
	},
	{
		name: 'saving',
		from: whole,
		words: (data) => ['backup', '--out', `${data}-backups`],
		goOn: (data) => ['backup', '--out', `${data}-backups`],
		check(data) {
			const made = backups(data).filter((name) => name.endsWith('.sqlite'));
			expect(made.length).toBeGreaterThan(0);
			for (const name of made) done(`${data}-again-${name}`, 'restore-backup', path.join(`${data}-backups`, name));
		}
	},
	{
		name: 'restoring',
		from: archived,
		words: () => ['restore-backup', saved(), '--replace'],
		goOn: () => ['restore-backup', saved(), '--replace'],
		check: (data) => expect(states(data)).toEqual({ live: MESSAGES, archived: 0 })
	}
];

for (const { name, from, words, goOn, check, left = MESSAGES } of works)
	for (let round = 1; round <= ROUNDS; round++)
		test(`${name}, killed on its way (${round}), loses nothing and comes to its end`, async () => {
			if (name === 'restoring' && round === 1) done(whole, 'backup', '--out', path.join(folder, 'saved'));
			const data = path.join(folder, `${name.replace(' ', '-')}-${round}`);
			if (from) cpSync(from, data, { recursive: true });
			await killed(data, words(data), dice.between(450, 1_800));
			// an import may have been killed before there was an archive
			const begun = from !== undefined || kovrel(data, 'verify', '--json').status === 0;
			if (begun) expect(done(data, 'verify')).toMatchObject({ ok: true, damaged: [] });
			expect(kovrel(data, ...goOn(data)).status).toBe(0);
			expect(done(data, 'verify')).toMatchObject({ ok: true, damaged: [], messages: left });
			check(data);
			rmSync(data, { recursive: true, force: true });
		});
