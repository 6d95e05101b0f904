import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import path from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import type { Context } from '../context/context.ts';
import { rows } from '../database/rows.ts';
import { inList, sql } from '../database/sql.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { readContent } from '../mail/contents-store.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { filledOffice } from '../testing/filled-office.ts';
import { labelledMail } from '../testing/labelled-mail.ts';
import { letter, mboxFile, openOffice, temporaryFolder } from '../testing/office.ts';
import { findProposals } from './propose.ts';

afterAll(closeParsePool);

/* Messages that are proposed as said in another one, each with that one. */
async function proposed(
	{ db }: Context,
	kinds = ['quoted-in-full']
): Promise<{ itemId: number; betterId: number; subject: string }[]> {
	return rows(
		db,
		sql`SELECT proposal_item.item_id AS itemId, better_item_id AS betterId, message.subject FROM proposal_item
			JOIN item ON item.id = proposal_item.item_id JOIN message ON message.id = item.message_id
		 WHERE kind IN ${inList(kinds)} AND better_item_id IS NOT NULL ORDER BY 1`
	);
}

/* What Python says is missing in the later of each pair. */
async function missing(context: Context, pairs: readonly { itemId: number; betterId: number }[]): Promise<unknown[]> {
	const folder = temporaryFolder();
	const fileOf = async (id: number) => {
		const [item] = await rows<{ contentId: number }>(
			context.db,
			sql`SELECT content_id AS contentId FROM item JOIN message ON message.id = item.message_id WHERE item.id = ${id}`
		);
		const file = path.join(folder, String(id));
		writeFileSync(file, (await readContent(context.db, item?.contentId as number)) ?? '');
		return file;
	};
	const lines: string[] = [];
	for (const { itemId, betterId } of pairs) lines.push(JSON.stringify([await fileOf(itemId), await fileOf(betterId)]));
	const { status, stdout, stderr } = spawnSync('python3', ['tests/python/carried.py'], {
		input: lines.join('\n'),
		encoding: 'utf8',
		maxBuffer: 2 ** 28
	});
	expect(status, stderr).toBe(0);
	return stdout
		.split('\n')
		.filter((line) => line !== '')
		.map((line) => JSON.parse(line) as unknown);
}

async function office(messages: readonly string[]): Promise<Context> {
	const context = await openOffice();
	await importMailbox(context, { path: mboxFile(messages), mailbox: 'Office' });
	return withProposals(context);
}

async function withProposals(context: Context): Promise<Context> {
	await findProposals(context, { mailboxId: 1 });
	return context;
}

/* No proposal loses a word: a second implementation, in Python, reads both messages whole. */
const SAID_ELSEWHERE = ['quoted-in-full', 'same-content', 'same-bytes'];

describe('every message that is proposed as said elsewhere is, as Python reads it', () => {
	it.each([
		['lists of the corpora', async () => withProposals(await filledOffice('lists')), 90],
		['broken mail of the corpora', async () => withProposals(await filledOffice('enmime')), 1],
		["Python's test mail", async () => withProposals(await filledOffice('python')), 0],
		['labelled mail', () => office(labelledMail().map(({ text }) => text)), 20]
	])('%s', async (_name, open, least) => {
		const context = await open();
		const pairs = await proposed(context, SAID_ELSEWHERE);
		const lacking = await missing(context, pairs);
		expect(pairs.filter((_, at) => lacking[at] !== null).map((pair) => pair.subject)).toEqual([]);
		console.info(`${pairs.length} messages said in another one`);
		expect(pairs.length).toBeGreaterThanOrEqual(least);
	});
});

const TEXT =
	'Could you confirm the number of trailers for the evening sailing?\nThe ramp limit is twelve tonnes an axle, and the crane is out of order.\n\nBirgit';
const HEAD = 'From: Birgit <birgit@skerryline.example>\nSent: Monday\nTo: Office\nSubject: Trailers';
const wrapped = (width: number) =>
	TEXT.replace(/\s+/g, ' ').replace(new RegExp(`(.{${width - 15},${width}}) `, 'g'), '$1\n');
const marked = (mark: string) =>
	TEXT.split('\n')
		.map((line) => mark + line)
		.join('\n');

/* How a later message carries an earlier one without the usual marks (common practice). */
const UNMARKED: [string, string][] = [
	['an original message below the answer', `Fine.\n\n-----Original Message-----\n${HEAD}\n\n${TEXT}`],
	['in German', `Gut.\n\n-----Ursprüngliche Nachricht-----\n${HEAD}\n\n${TEXT}`],
	['in French', `Bien.\n\n-----Message d'origine-----\n${HEAD}\n\n${TEXT}`],
	['in Spanish', `Bien.\n\n-----Mensaje original-----\n${HEAD}\n\n${TEXT}`],
	['a header below a line', `Fine.\n\n________________________________\n${HEAD}\n\n${TEXT}`],
	['a forward', `See below.\n\n---------- Forwarded message ----------\n${HEAD}\n\n${TEXT}`],
	['a forward that begins', `Begin forwarded message:\n\n${HEAD}\n\n${TEXT}`],
	['indented by blanks', `Fine.\n\nBirgit wrote:\n\n${marked('    ')}`],
	['indented by a tab', `Fine.\n\n${marked('\t')}`],
	['in a box', `+-----\n${marked('| ')}\n+-----\n\nFine.`],
	['with initials', `${marked('BG> ')}\n\nFine.`],
	['wrapped anew', `Fine.\n\n${wrapped(40)}`],
	['sent again with a word before', `I sent this last week, and heard nothing.\n\n${TEXT}`],
	['sent again with a word behind', `${TEXT}\n\nP.S. The crane is back.`],
	['quoted by an answer above its own', `${TEXT}\n\nYes, fourteen.\n\nEmre`]
];
/* Near to it, and a word is lost. */
const NOT_WHOLE: [string, string][] = [
	['a line left out', `Fine.\n\n-----Original Message-----\n${HEAD}\n\n${TEXT.split('\n')[0]}`],
	['a word changed', `Fine.\n\n-----Original Message-----\n${HEAD}\n\n${TEXT.replace('twelve', 'ten')}`],
	['a word left out', `Fine.\n\n${TEXT.replace('evening ', '')}`],
	['shortened', `Fine.\n\n${TEXT.replace('and the crane', '[…]')}`],
	['its sentences the other way round', `${TEXT.split('\n').reverse().join('\n')}`]
];

describe('quotes without marks', () => {
	const pair = (later: string, at: number) => {
		const id = `u${at}`;
		const subject = `Trailers ${at}`;
		const earlier = letter(subject, 'Mon, 02 Mar 2020 10:00:00 +0000', TEXT).replace(
			/Message-ID: .*/,
			`Message-ID: <${id}@x.example>`
		);
		const answer = letter(`Re: ${subject}`, 'Tue, 03 Mar 2020 10:00:00 +0000', later)
			.replace(/Message-ID: .*/, `Message-ID: <${id}a@x.example>`)
			.replace('\n\n', `\nReferences: <${id}@x.example>\n\n`);
		return [earlier, answer];
	};

	it('are found, all of them, and nothing that lacks a word', async () => {
		const cases = [...UNMARKED, ...NOT_WHOLE];
		const context = await office(cases.flatMap(([, later], at) => pair(later, at)));
		const found = new Set((await proposed(context)).map(({ subject }) => subject));
		const missed = UNMARKED.filter((_, at) => !found.has(`Trailers ${at}`)).map(([name]) => name);
		const wrong = NOT_WHOLE.filter((_, at) => found.has(`Trailers ${UNMARKED.length + at}`)).map(([name]) => name);
		expect({ missed, wrong }).toEqual({ missed: [], wrong: [] });
		expect(await missing(context, await proposed(context))).toEqual(UNMARKED.map(() => null));
	});

	it('are not taken for what somebody says by chance', async () => {
		const short = (subject: string, text: string, at: number) =>
			pair(text, at).map((one) => one.replaceAll(TEXT, subject));
		const context = await office(short('I agree with you.', 'As to the ramp: I agree with you. Let us order it.', 90));
		expect(await proposed(context)).toEqual([]);
	});
});
