import { expect, it } from 'vitest';
import { addGrant } from '../access/grants-store.ts';
import type { Context } from '../context/context.ts';
import { row, rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { setDigest } from '../digest/make-digests.ts';
import { carryOut } from '../docket/carry-out.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { clearTag } from '../filing/clear-tag.ts';
import { makeFolder, renameFolder } from '../folders/folders.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import { findFolder, listFolders } from '../mail/folders-store.ts';
import { changeTag, listTags } from '../mail/tags.ts';
import { addPerson } from '../people/people.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { addRule, listRules, type RuleGiven } from './rules.ts';
import { runRules } from './run-rules.ts';

const of = { mailbox: 'Office' };
const add = (context: Context, rule: Partial<RuleGiven>) =>
	addRule(context, { ...of, rule: { query: 'from:times', stay: {}, then: 'archive', options: {}, ...rule } });
const bring = (context: Context, subject: string, folder: string) =>
	importMailbox(context, {
		...of,
		folder,
		path: mboxFile([letter(subject, 'Mon, 02 Mar 2026 10:00:00 +0000', 'x', 'news@times.example')])
	});

/* Runs, and carries out what waits for a person. */
async function run(context: Context): Promise<void> {
	for (const { docket, asks } of (await runRules(context, {})).runs) if (asks) await carryOut(context, { id: docket });
}
const placesOf = async ({ db }: Context) =>
	(
		await rows<{ place: string }>(
			db,
			sql`SELECT state || ' ' || folder.path || ': ' || subject AS place FROM item JOIN message ON message.id = item.message_id
				JOIN folder ON folder.id = folder_id ORDER BY subject`
		)
	).map(({ place }) => place);
const decisions = async (context: Context) =>
	(await listRules(context, { mailbox: 1 })).map(({ query, options }) => [query, options.folder ?? options.tag]);

it('a standing decision spares a folder that was renamed, and moves into one', async () => {
	const context = await openOffice();
	await bring(context, 'One', 'Claims');
	await bring(context, 'Two', 'Inbox');
	await makeFolder(context, { ...of, folder: 'News' });
	await add(context, { query: 'from:times not folder:Claims', then: 'move', options: { folder: 'News' } });
	await run(context);
	expect(await renameFolder(context, { ...of, folder: 'Claims', to: 'Legal/Claims of 2026' })).toMatchObject({
		followed: { decisions: 1, searches: 0 }
	});
	await renameFolder(context, { ...of, folder: 'News', to: 'Papers' });
	await bring(context, 'Three', 'Legal/Claims of 2026');
	await bring(context, 'Tree', 'Inbox');
	await run(context);
	expect(await placesOf(context)).toEqual([
		'live Legal/Claims of 2026: One',
		'live Legal/Claims of 2026: Three',
		'live Papers: Tree',
		'live Papers: Two'
	]);
	expect((await listFolders(context.db, 1, 'mailbox')).map(({ path }) => path)).not.toContain('News');
});

it('what names a folder follows, in its mailbox and its tree alone', async () => {
	const context = await openOffice();
	await bring(context, 'One', 'Vessels/Terne');
	await add(context, { then: 'move', options: { folder: 'Vessels/Terne/2026' } });
	await add(context, { query: 'folder:Terne', options: { folder: 'Vessels/Terne' } });
	await add(context, { query: 'folder:2026', then: 'tag', options: { tag: 'Vessels/Terne' } });
	await setDigest(context, { ...of, folder: 'Vessels/Terne/Digests' });
	const draft = await prepareDocket(context, {
		mailboxId: 1,
		lines: [
			{
				decision: 'move',
				options: { folder: 'vessels/terne' },
				scope: { kind: 'query', query: 'subject:one', label: '' }
			}
		]
	});
	await importMailbox(context, { path: mboxFile([letter('Two', '', 'x')]), mailbox: 'Desk', folder: 'Terne' });
	await addRule(context, {
		mailbox: 'Desk',
		rule: { query: 'folder:Terne', stay: {}, then: 'move', options: { folder: 'Vessels/Terne' } }
	});
	for (const [name, role] of [
		['Ylva', 'administrator'],
		['Tove', 'colleague'],
		['Jonas', 'colleague']
	] as const)
		await addPerson(context, { name, address: `${name}@s.example`, role });
	const question = new URLSearchParams({ q: 'folder:terne larger:5 MB', in: '1' }).toString();
	for (const id of [1, 2, 3]) await context.db('saved_search').insert({ person_id: id, name: 'Terne', question });
	await addGrant(context.db, {
		personId: 2,
		groupId: null,
		mailboxId: 1,
		folderId: (await findFolder(context.db, 1, 'mailbox', 'Vessels/Terne'))?.id as number,
		mayFind: true,
		mayRestore: false,
		until: null,
		givenAt: '2026-11-25T00:00:00Z',
		givenBy: 'Ylva'
	});

	await renameFolder(context, { ...of, folder: 'Vessels/Terne', to: 'Ships/MV Terne' });

	expect(await decisions(context)).toEqual([
		['from:times', 'Ships/MV Terne/2026'],
		// the folder of the archive keeps its name
		['folder:"Ships/MV Terne"', 'Vessels/Terne'],
		['folder:2026', 'Vessels/Terne']
	]);
	expect((await listRules(context, { mailbox: 2 })).map(({ query, options }) => [query, options.folder])).toEqual([
		['folder:Terne', 'Vessels/Terne']
	]);
	expect(await row(context.db, sql`SELECT digest_folder AS folder FROM mailbox WHERE id = 1`)).toEqual({
		folder: 'Ships/MV Terne/Digests'
	});
	const line = await row<{ options: string }>(
		context.db,
		sql`SELECT options FROM docket_line WHERE docket_id = ${draft.id}`
	);
	expect(JSON.parse(line?.options as string)).toEqual({ folder: 'Ships/MV Terne' });
	// the other mailbox has a folder of that name; who finds no mail of this one learns no new name (invariant 20)
	const stored = await rows<{ question: string }>(
		context.db,
		sql`SELECT question FROM saved_search ORDER BY person_id`
	);
	const both = '(folder:terne or folder:"Ships/MV Terne") larger:5 MB';
	expect(stored.map(({ question }) => new URLSearchParams(question).get('q'))).toEqual([
		both,
		both,
		'folder:terne larger:5 MB'
	]);
});

it('what names a tag follows where it is renamed or merged', async () => {
	const context = await openOffice();
	await bring(context, 'One', 'Inbox');
	for (const tag of ['Vessels/Terne', 'Ships']) await changeTag(context, { tag, make: undefined });
	await add(context, { query: 'not tag:vessels/terne', then: 'tag', options: { tag: 'Vessels/Terne' } });
	await changeTag(context, { tag: 'Vessels/Terne', rename: 'Vessels / MV Terne' });
	expect(await decisions(context)).toEqual([['not tag:"Vessels/MV Terne"', 'Vessels/MV Terne']]);
	await clearTag(context, { tag: 'Vessels/MV Terne', mergeInto: 'Ships' });
	expect(await decisions(context)).toEqual([['not tag:"Ships"', 'Ships']]);
	await run(context);
	expect((await listTags(context)).map(({ name }) => name)).not.toContain('Vessels/MV Terne');
});
