import { afterAll, describe, expect, it } from 'vitest';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { listFolders } from '../mail/folders-store.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { compareWeights } from '../mail/weights-store.ts';
import { letter, mboxFile, openOffice } from '../testing/office.ts';
import { carryOut, takeBack } from '../docket/carry-out.ts';
import type { Context } from '../context/context.ts';
import {
	endPause,
	folderPerYear,
	makeFolder,
	mergeFolder,
	pauseFolder,
	removeFolders,
	renameFolder,
	setFolderArchiving
} from './folders.ts';
import { decideMessages } from '../find/decide-messages.ts';
import { prepareArchiving } from '../archive/prepare-archiving.ts';
import { weighMailbox } from '../weigh/weigh.ts';
import { find } from '../find/find.ts';
import { importMailbox } from '../intake/import-mailbox.ts';
import {
	decideKeepList,
	discardKeepLine,
	readKeepList,
	searchKeepList,
	standingKeepLines
} from '../keep-list/keep-list.ts';
import { prepareDocket } from '../docket/prepare-docket.ts';
import { restore } from '../find/restore.ts';
import { clearTag } from '../filing/clear-tag.ts';
import { changeTag, listTags, weighTags } from '../mail/tags.ts';

afterAll(closeParsePool);

const year = (n: number) => `Mon, 02 Mar ${n} 10:00:00 +0000`;

async function office(): Promise<Context> {
	const context = await openOffice();
	await importMailbox(context, {
		path: mboxFile([letter('One', year(2019)), letter('Two', year(2020)), letter('MV Terne', year(2020))]),
		mailbox: 'Office',
		folder: 'Verträge'
	});
	await importMailbox(context, {
		path: mboxFile([letter('Four', year(2021))]),
		mailbox: 'Office',
		folder: 'Verträge/Alt'
	});
	await importMailbox(context, { path: mboxFile([letter('Five', year(2022))]), mailbox: 'Office' });
	return context;
}

const of = { mailbox: 'Office' };
const paths = async ({ db }: Context) => (await listFolders(db, 1, 'mailbox')).map(({ path }) => path).sort();
const places = async ({ db }: Context, state = 'live') =>
	(
		await rows<{ place: string }>(
			db,
			sql`SELECT folder.path || ': ' || subject AS place FROM item JOIN message ON message.id = item.message_id JOIN folder ON folder.id = folder_id WHERE state = ${state} ORDER BY 1`
		)
	).map(({ place }) => place);

describe('folders', () => {
	it('are made once, whatever the case or accents', async () => {
		const context = await office();
		expect(await makeFolder(context, { ...of, folder: 'VERTRAGE / Neu' })).toMatchObject({
			path: 'Verträge/Neu',
			isNew: true
		});
		expect(await makeFolder(context, { ...of, folder: 'verträge/neu' })).toMatchObject({
			path: 'Verträge/Neu',
			isNew: false
		});
		await expect(makeFolder(context, { ...of, folder: ' / ' })).rejects.toThrow('needs a name');
	});

	it('are renamed and moved with what lies below them; items come along, and go back there later', async () => {
		const context = await office();
		const archived = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'archive', options: {}, scope: { kind: 'query', query: 'subject:four', label: '' } }]
		});
		await carryOut(context, { id: archived.id });
		await renameFolder(context, { ...of, folder: 'Vertrage', to: 'Office papers/Contracts' });
		expect(await paths(context)).toEqual([
			'Inbox',
			'Office papers',
			'Office papers/Contracts',
			'Office papers/Contracts/Alt'
		]);
		await restore(context, { ids: [4] });
		expect(await places(context)).toContain('Office papers/Contracts/Alt: Four');
	});

	it.each([
		['onto another folder', { folder: 'Verträge/Alt', to: 'Inbox' }, 'merge them'],
		['below itself', { folder: 'Verträge', to: 'Verträge/Alt/Verträge' }, 'below itself'],
		['with a part of its own', { folder: 'Inbox', to: 'Eingang' }, 'keeps its name'],
		['that is not there', { folder: 'Nowhere', to: 'X' }, 'no folder']
	])('are not renamed %s', async (_name, wish, message) => {
		await expect(renameFolder(await office(), { ...of, ...wish })).rejects.toThrow(message);
	});

	it('can be renamed to a name that a removed folder had', async () => {
		const context = await office();
		await makeFolder(context, { ...of, folder: 'Old name' });
		await removeFolders(context, { ...of, folders: ['Old name'] });
		expect(await renameFolder(context, { ...of, folder: 'Verträge', to: 'Old name' })).toMatchObject({
			path: 'Old name'
		});
	});

	it('are merged and divided by year through the docket, and put back by it', async () => {
		const context = await office();
		const merge = await mergeFolder(context, { ...of, folder: 'Verträge', into: 'Inbox' });
		expect(merge.messages).toBe(4);
		await carryOut(context, { id: merge.id });
		expect((await places(context)).every((place) => place.startsWith('Inbox: '))).toBe(true);
		await takeBack(context, { id: merge.id });
		const years = await folderPerYear(context, { ...of, folder: 'Verträge' });
		expect(years.lines.map(({ messages }) => messages)).toEqual([1, 2, 1]);
		await carryOut(context, { id: years.id });
		expect(await places(context)).toEqual([
			'Inbox: Five',
			'Verträge/2019: One',
			'Verträge/2020: MV Terne',
			'Verträge/2020: Two',
			'Verträge/2021: Four'
		]);
		expect(await compareWeights(context.db)).toBe(0);
		expect(await removeFolders(context, { ...of, folders: ['Verträge/Alt'] })).toEqual(['Verträge/Alt']);
		await expect(removeFolders(context, { ...of, folders: ['Verträge', 'Inbox'] })).rejects.toThrow('There is mail');
	});

	it('are paused until a day, for a reason: what lies in and below them is not deleted', async () => {
		const context = await office();
		const deleting = async () =>
			(
				await prepareDocket(context, {
					mailboxId: 1,
					lines: [{ decision: 'delete', options: {}, scope: { kind: 'query', query: '', label: '' } }]
				})
			).lines[0];
		await expect(
			pauseFolder(context, { ...of, folder: 'Verträge', until: '2026-11-25', because: 'x' })
		).rejects.toThrow('still to come');
		await expect(
			pauseFolder(context, { ...of, folder: 'Verträge', until: '2027-01-01', because: ' ' })
		).rejects.toThrow('reason');
		await pauseFolder(context, { ...of, folder: 'Verträge', until: '2027-01-01', because: 'the project runs' });
		expect(await deleting()).toMatchObject({ messages: 1, left: [{ reason: 'paused', messages: 4 }] });
		const after = { ...context, now: () => new Date('2027-01-01T12:00:00Z') };
		expect(
			(
				await prepareDocket(after, {
					mailboxId: 1,
					lines: [{ decision: 'delete', options: {}, scope: { kind: 'query', query: '', label: '' } }]
				})
			).messages
		).toBe(5);
		await endPause(context, { ...of, folder: 'Verträge' });
		expect((await deleting())?.messages).toBe(5);
		await expect(endPause(context, { ...of, folder: 'Verträge' })).rejects.toThrow('not paused');
	});
});

describe('folders of the archive', () => {
	const inArchive = { ...of, tree: 'archive' as const };
	const everythingArchived = async () => {
		const context = await office();
		const scope = { kind: 'query', query: '', label: '' } as const;
		const archived = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'archive', options: {}, scope }]
		});
		await carryOut(context, { id: archived.id });
		return context;
	};
	const tree = async ({ db }: Context) => (await listFolders(db, 1, 'archive')).map(({ path }) => path).sort();
	const found = async (context: Context, query: string) =>
		(await find(context, { query, states: ['archived'], limit: 10 })).total;

	it('are renamed at once; what lies there is found under both names, and goes back to where it came from', async () => {
		const context = await everythingArchived();
		await renameFolder(context, { ...inArchive, folder: 'Vertrage', to: 'Closed/Contracts' });
		expect(await tree(context)).toEqual(['Closed', 'Closed/Contracts', 'Closed/Contracts/Alt', 'Inbox']);
		expect(await found(context, 'folder:contracts')).toBe(4);
		expect(await found(context, 'folder:"verträge/alt"')).toBe(1);
		await expect(renameFolder(context, { ...inArchive, folder: 'Inbox', to: 'Closed' })).rejects.toThrow('merge them');
		await expect(renameFolder(context, { ...inArchive, folder: 'Trash', to: 'X' })).rejects.toThrow(
			'archive of Office has no folder'
		);
		await restore(context, { ids: [1, 4] });
		expect(await places(context)).toEqual(['Verträge/Alt: Four', 'Verträge: One']);
		// later mail is archived under the folder's present name
		const again = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'archive', options: {}, scope: { kind: 'items', ids: [1, 4] } }]
		});
		await carryOut(context, { id: again.id });
		expect(await places(context, 'archived')).toContain('Verträge/Alt: Four');
	});

	it('are left when they are empty', async () => {
		const context = await everythingArchived();
		await renameFolder(context, { ...inArchive, folder: 'Verträge/Alt', to: 'Old contracts' });
		await renameFolder(context, { ...inArchive, folder: 'Old contracts', to: 'Closed/Old contracts' });
		await renameFolder(context, { ...inArchive, folder: 'Closed/Old contracts', to: 'Kept' });
		expect(await tree(context)).toEqual(['Inbox', 'Kept', 'Verträge']);
	});

	it('are merged, into a new folder as well, and divided by year; by the docket, which puts them back', async () => {
		const context = await everythingArchived();
		const before = await places(context, 'archived');
		const merge = await mergeFolder(context, { ...inArchive, folder: 'Verträge', into: 'Closed / Papers' });
		expect(merge.sentences.join(' ')).toContain(
			'Move 4 messages in Verträge and below within the archive to Closed/Papers'
		);
		await carryOut(context, { id: merge.id });
		expect(await tree(context)).toEqual(['Closed', 'Closed/Papers', 'Inbox']);
		expect(await places(context, 'archived')).toContain('Closed/Papers: Four');
		await takeBack(context, { id: merge.id });
		expect(await places(context, 'archived')).toEqual(before);
		const years = await folderPerYear(context, { ...inArchive, folder: 'Verträge' });
		expect(years.lines.map(({ messages }) => messages)).toEqual([1, 2, 1]);
		await carryOut(context, { id: years.id });
		expect(await tree(context)).toEqual(['Inbox', 'Verträge', 'Verträge/2019', 'Verträge/2020', 'Verträge/2021']);
		// the second time, there is nothing left to divide
		expect((await folderPerYear(context, { ...inArchive, folder: 'Verträge' })).messages).toBe(0);
		expect(await compareWeights(context.db)).toBe(0);
		await restore(context, { ids: [1, 2, 3, 4, 5] });
		expect(await places(context)).toEqual([
			'Inbox: Five',
			'Verträge/Alt: Four',
			'Verträge: MV Terne',
			'Verträge: One',
			'Verträge: Two'
		]);
	});

	it.each([
		['into itself', { folder: 'Verträge', into: 'vertrage' }, 'merged into itself'],
		['into one below it', { folder: 'Verträge', into: 'Verträge/Alt' }, 'merged into itself'],
		['into a new one below it', { folder: 'Verträge', into: 'vertrage/Neu/Alt' }, 'merged into itself'],
		['into nothing', { folder: 'Verträge', into: ' / ' }, 'needs a name'],
		['from nowhere', { folder: 'Nowhere', into: 'Inbox' }, 'no folder']
	])('are not merged %s', async (_name, wish, message) => {
		await expect(mergeFolder(await everythingArchived(), { ...inArchive, ...wish })).rejects.toThrow(message);
	});
});

describe('tags', () => {
	const names = async (context: Context) =>
		(await weighTags(context, {})).map(({ name, messages }) => `${name} ${messages}`);
	const tagged = async (context: Context, tag: string, ids: number[]) => {
		const docket = await prepareDocket(context, {
			mailboxId: 1,
			lines: [{ decision: 'tag', options: { tag }, scope: { kind: 'items', ids } }]
		});
		await carryOut(context, { id: docket.id });
		return docket.id;
	};

	it('are put on by a docket, several to a message, and taken off by taking it back', async () => {
		const context = await office();
		await tagged(context, 'Vessels/MV Terne', [1, 2]);
		const second = await tagged(context, 'vessels / mv terne', [2, 3]);
		await tagged(context, 'Urgent', [2]);
		expect(await names(context)).toEqual(['Urgent 1', 'Vessels/MV Terne 3']);
		await takeBack(context, { id: second });
		// its earlier mail keeps it
		expect(await names(context)).toEqual(['Urgent 1', 'Vessels/MV Terne 2']);
	});

	it('are renamed with those below them, merged, coloured, hidden and removed', async () => {
		const context = await office();
		await tagged(context, 'Vessels', [1]);
		await tagged(context, 'Vessels/Terne', [1, 2]);
		await tagged(context, 'Ships', [2, 3]);
		await expect(changeTag(context, { tag: 'Vessels', rename: 'ships' })).rejects.toThrow('merge them');
		await changeTag(context, { tag: 'Vessels', rename: 'Fleet' });
		expect(await names(context)).toEqual(['Fleet 1', 'Fleet/Terne 2', 'Ships 2']);
		await clearTag(context, { tag: 'Ships', mergeInto: 'Fleet/Terne' });
		expect(await names(context)).toEqual(['Fleet 1', 'Fleet/Terne 3']);
		await changeTag(context, { tag: 'fleet', colour: 'rope' });
		await changeTag(context, { tag: 'fleet', hidden: true });
		expect((await listTags(context))[0]).toMatchObject({ colour: 'rope', hidden: true });
		await clearTag(context, { tag: 'Fleet/Terne' });
		expect(await names(context)).toEqual(['Fleet 1']);
		await expect(clearTag(context, { tag: 'Nothing' })).rejects.toThrow('no tag');
		await expect(clearTag(context, { tag: 'Fleet', mergeInto: 'Fleet' })).rejects.toThrow('itself');
	});
});

describe('a keep-list', () => {
	it.each([
		['MV Terne\nslipway claim\n\nMV Terne\n', ['MV Terne', 'slipway claim']],
		['"Terne, MV";vessel\nNF-2024-118;case\n', ['Terne, MV', 'NF-2024-118']],
		['\uFEFFone\ttab\r\ntwo', ['one', 'two']],
		['he said "so" once', ['he said so once']],
		['', []]
	])('is read as lines or as a CSV: %j', (text, lines) => {
		expect(readKeepList(text)).toEqual(lines);
	});

	it('may have two thousand lines', async () => {
		const context = await office();
		const text = [...Array.from({ length: 1_999 }, (_, n) => `line number ${n}`), 'MV Terne'].join('\n');
		const [docket] = await decideKeepList(context, {
			mailboxId: 1,
			text,
			decision: 'keep',
			options: {},
			standing: true
		});
		expect(docket).toMatchObject({ messages: 1 });
		await importMailbox(context, { path: mboxFile([letter('Again MV Terne', year(2023))]), mailbox: 'Office' });
		expect(await rows(context.db, sql`SELECT id FROM item WHERE kept = 1`)).toEqual([{ id: 6 }]);
	});

	it('is searched in one go, decided on in one docket, and stands for mail to come', async () => {
		const context = await office();
		const text = 'MV Terne\nfive\nnothing of the kind';
		expect(await searchKeepList(context, { mailboxId: 1, text })).toMatchObject([
			{ line: 'MV Terne', messages: 1, messagesIsMore: false, examples: ['MV Terne'] },
			{ line: 'five', messages: 1, messagesIsMore: false, examples: ['Five'] },
			{ line: 'nothing of the kind', messages: 0, messagesIsMore: false, examples: [] }
		]);
		const [docket] = await decideKeepList(context, {
			mailboxId: 1,
			text,
			decision: 'tag',
			options: { tag: 'Terne' },
			standing: true
		});
		expect(docket).toMatchObject({ messages: 2 });
		await carryOut(context, { id: docket?.id as number });
		await importMailbox(context, {
			path: mboxFile([letter('Again MV Terne', year(2023)), letter('Else', year(2023))]),
			mailbox: 'Office'
		});
		expect(await weighTags(context, {})).toMatchObject([{ name: 'Terne', messages: 3 }]);
		const lines = await standingKeepLines(context, { mailboxId: 1 });
		expect(lines.map((line) => line.text)).toEqual(['MV Terne', 'five', 'nothing of the kind']);
		await discardKeepLine(context, { mailboxId: 1, lineId: lines[0]?.id as number });
		await expect(discardKeepLine(context, { mailboxId: 1, lineId: lines[0]?.id as number })).rejects.toThrow(
			'no such line'
		);
		await importMailbox(context, { path: mboxFile([letter('Once more MV Terne', year(2024))]), mailbox: 'Office' });
		expect(await weighTags(context, {})).toMatchObject([{ name: 'Terne', messages: 3 }]);
	});
});

describe('what is never archived', () => {
	const archived = (context: Context) => places(context, 'archived');
	const subjects = async (context: Context, ...of: string[]) =>
		(
			await rows<{ id: number }>(
				context.db,
				sql`SELECT item.id FROM item JOIN message ON message.id = item.message_id WHERE subject IN (SELECT value FROM json_each(${JSON.stringify(of)}))`
			)
		).map(({ id }) => id);

	it('of a folder with its subfolders stays by every way of archiving, which says so; a line that names it takes it', async () => {
		const context = await office();
		await setFolderArchiving(context, { ...of, folder: 'verträge', neverArchived: true });
		const stays = { reason: 'never-archived', messages: 4 };

		const byDate = await prepareArchiving(context, { mailbox: 1, before: '2026-01-01' });
		expect([byDate.messages, byDate.lines[0]?.left]).toEqual([1, [stays]]);
		const bySearch = await prepareArchiving(context, { mailbox: 1, query: 'since:2019', label: 'of a search' });
		expect([bySearch.messages, bySearch.lines[0]?.left]).toEqual([1, [stays]]);
		const [single] = await decideMessages(context, {
			ids: await subjects(context, 'One'),
			decision: 'archive',
			options: {}
		});
		expect(single).toMatchObject({ messages: 0, left: [{ reason: 'never-archived', messages: 1 }] });
		const { suggestions } = await weighMailbox(context, { mailboxId: 1 });
		expect(suggestions.map(({ what }) => what).join()).not.toContain('Verträge');

		await carryOut(context, { id: byDate.id });
		expect(await archived(context)).toEqual(['Inbox: Five']);
		const named = await prepareDocket(context, {
			mailboxId: 1,
			lines: [
				{
					decision: 'archive',
					options: { only: 'never-archived' },
					scope: { kind: 'items', ids: await subjects(context, 'One', 'Four') }
				}
			]
		});
		expect(named.sentences[0]).toContain('Archive 2 never-archived messages');
		await carryOut(context, { id: named.id });
		expect(await archived(context)).toHaveLength(3);

		await setFolderArchiving(context, { ...of, folder: 'Verträge', neverArchived: false });
		const rest = await prepareArchiving(context, { mailbox: 1, before: '2026-01-01' });
		expect([rest.messages, rest.lines[0]?.left]).toEqual([2, []]);
	});

	it('of a single message stays as well, wherever it is moved, and is deleted like any other', async () => {
		const context = await office();
		const ids = await subjects(context, 'Five');
		await decideMessages(context, { ids, decision: 'never-archive', options: {} });
		await decideMessages(context, { ids, decision: 'move', options: { folder: 'Elsewhere' } });
		const docket = await prepareArchiving(context, { mailbox: 1, before: '2026-01-01' });
		expect([docket.messages, docket.lines[0]?.left]).toEqual([4, [{ reason: 'never-archived', messages: 1 }]]);
		const [deleted] = await decideMessages(context, { ids, decision: 'delete', options: {} });
		expect(deleted?.messages).toBe(1);
	});

	it('leaves out folders that are named, and flagged mail where that is asked for', async () => {
		const context = await office();
		await decideMessages(context, { ids: await subjects(context, 'Five'), decision: 'flag', options: {} });
		const whole = await prepareArchiving(context, { mailbox: 1, before: '2026-01-01' });
		expect([whole.messages, whole.lines[0]?.flagged]).toEqual([5, 1]);
		const less = await prepareArchiving(context, {
			mailbox: 1,
			before: '2026-01-01',
			without: ['Verträge/Alt'],
			leavesFlagged: true
		});
		expect(less.messages).toBe(3);
		expect(less.lines[0]?.left).toEqual([{ reason: 'flagged', messages: 1 }]);
		expect(less.sentences[0]).toContain('leaving out Verträge/Alt');
		await expect(prepareArchiving(context, { mailbox: 1, before: '2026-01-01', without: ['Nowhere'] })).rejects.toThrow(
			'Nowhere'
		);
	});
});
