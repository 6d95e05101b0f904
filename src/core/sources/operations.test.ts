import { describe, expect, it } from 'vitest';
import { DECISIONS, ruleOf } from '../docket/decisions.ts';
import {
	changesOnServer,
	keywordOfTag,
	operationsFor,
	pathOnServer,
	type Place,
	type ServerMessage,
	tagOfKeyword,
	type WantedItem
} from './operations.ts';
import { reachSentence } from './reach.ts';
import { pathHere } from './server.ts';

const wanted = (place: Place, also: Partial<WantedItem> = {}): WantedItem => ({
	itemId: 1,
	place,
	mayAppend: true,
	flags: 0,
	knownFlags: 7,
	keywords: [],
	...also
});
const there = (folder: string, uid: number, also: Partial<ServerMessage> = {}): ServerMessage => ({
	itemId: 1,
	folder,
	uid,
	flags: 0,
	keywords: [],
	...also
});
const inFolder = { at: 'Vessels' };

describe('what has to be done on a server', () => {
	it.each<[name: string, wanted: WantedItem, there: ServerMessage[], expected: unknown[]]>([
		['nothing, where it is as here', wanted(inFolder), [there('Vessels', 4)], []],
		[
			'a move',
			wanted(inFolder),
			[there('INBOX', 4)],
			[{ kind: 'move', itemId: 1, folder: 'INBOX', uid: 4, to: 'Vessels' }]
		],
		[
			'a move of both copies in one folder',
			wanted(inFolder),
			[there('INBOX', 4), there('INBOX', 5)],
			[
				{ kind: 'move', uid: 4 },
				{ kind: 'move', uid: 5 }
			]
		],
		[
			'only the removal, after a copy was made',
			wanted(inFolder),
			[there('INBOX', 4), there('Vessels', 9)],
			[{ kind: 'remove', folder: 'INBOX', uid: 4 }]
		],
		[
			'a move of the copy that is not marked as deleted, and the removal of the marked one',
			wanted(inFolder),
			[there('INBOX', 4, { flags: 16 }), there('Fees', 9)],
			[
				{ kind: 'remove', folder: 'INBOX', uid: 4 },
				{ kind: 'move', folder: 'Fees', uid: 9, to: 'Vessels' }
			]
		],
		[
			'a move into its place beside one that is marked as deleted there',
			wanted(inFolder),
			[there('Vessels', 4, { flags: 16 }), there('Fees', 9)],
			[
				{ kind: 'remove', folder: 'Vessels', uid: 4 },
				{ kind: 'move', folder: 'Fees', uid: 9, to: 'Vessels' }
			]
		],
		[
			'a move of one that is marked as deleted and lies nowhere else',
			wanted(inFolder),
			[there('INBOX', 4, { flags: 16 })],
			[{ kind: 'move', folder: 'INBOX', uid: 4 }]
		],
		['an append, where it is nowhere', wanted(inFolder), [], [{ kind: 'append', itemId: 1, to: 'Vessels' }]],
		['no append of what was not put there', wanted(inFolder, { mayAppend: false }), [], []],
		[
			'its removal from everywhere',
			wanted('nowhere'),
			[there('INBOX', 4), there('Bin', 7)],
			[
				{ kind: 'remove', folder: 'INBOX', uid: 4 },
				{ kind: 'remove', folder: 'Bin', uid: 7 }
			]
		],
		['no marks of what is destroyed', wanted('as it is', { flags: undefined }), [there('INBOX', 4, { flags: 4 })], []],
		[
			'marks, and nothing else',
			wanted('as it is', { flags: 5, keywords: ['Ramp'] }),
			[there('INBOX', 4, { flags: 4 | 2 | 16, keywords: ['Old'] })],
			[
				{
					kind: 'marks',
					add: ['\\Seen', 'Ramp'],
					remove: ['\\Answered', 'Old'],
					after: { flags: 5 | 16, keywords: ['Ramp'] }
				}
			]
		],
		[
			'no keyword that differs in case alone',
			wanted('as it is', { keywords: ['ramp'] }),
			[there('INBOX', 4, { keywords: ['Ramp'] })],
			[]
		],
		[
			'no mark that is unknown here',
			wanted('as it is', { flags: 0, knownFlags: 6 }),
			[there('INBOX', 4, { flags: 1 })],
			[]
		],
		[
			'marks before the move',
			wanted(inFolder, { flags: 4 }),
			[there('INBOX', 4)],
			[{ kind: 'marks', add: ['\\Flagged'] }, { kind: 'move' }]
		]
	])('is %s', (_name, item, messages, expected) => {
		const operations = operationsFor(item, messages);
		expect(operations).toMatchObject(expected);
		expect(operations).toHaveLength(expected.length);
	});

	/* Written by hand: the decisions that a mail server can show. */
	const SHOWN = {
		place: ['archive', 'restore', 'arrange', 'move', 'delete', 'dispose', 'destroy'],
		marks: ['tag', 'untag', 'flag', 'unflag', 'read', 'unread']
	};
	it('is known for every decision', () => {
		const by = (kind: 'place' | 'marks') =>
			DECISIONS.filter((decision) => changesOnServer(ruleOf(decision), { tag: 'Ramp' }) === kind).sort();
		expect({ place: by('place'), marks: by('marks') }).toEqual({
			place: SHOWN.place.sort(),
			marks: SHOWN.marks.sort()
		});
	});
});

describe('names on a server', () => {
	it.each([
		['Inbox', '/', 'INBOX'],
		['Inbox/Old', '.', 'INBOX.Old'],
		['Vessels/Skua', '/', 'Vessels/Skua'],
		['Vessels/Skua', '.', 'Vessels.Skua'],
		['v1.2', '.', 'v1_2'],
		['Berths∕ramps', '.', 'Berths/ramps'],
		['Berths∕ramps', '/', 'Berths∕ramps']
	])('%s with %s is %s', (path, delimiter, expected) => {
		expect(pathOnServer(path, delimiter)).toBe(expected);
		if (path !== 'v1.2') expect(pathHere(expected, delimiter)).toBe(path);
	});

	it.each([
		['Ramp', 'Ramp'],
		['Crew papers', 'Crew_papers'],
		['$Junk', '$Junk'],
		['$Forwarded', undefined],
		['Fähre', undefined],
		['a(b)', undefined]
	])('the tag %s is the keyword %s', (name, keyword) => {
		expect(keywordOfTag(name)).toBe(keyword);
		if (keyword) expect(tagOfKeyword(keyword.toUpperCase(), ['Other', name])).toBe(name);
	});

	it('a keyword is the tag of its own name before that of another one', () => {
		expect(tagOfKeyword('Crew_papers', ['Crew papers', 'Crew_papers'])).toBe('Crew_papers');
		expect(tagOfKeyword('New', ['Crew papers'])).toBe('New');
	});
});

describe('what a decision reaches', () => {
	const server = { host: 'mail.skerryline.example', writes: true, archiveOn: 'kovrel' as const };
	it.each([
		['destroy', {}, /^Removes them .* as well\. The backups of mail\.skerryline\.example itself are not reached\.$/],
		['archive', {}, /once the copies here are checked/],
		['archive', { archiveOn: 'server' as const }, /archive folder .* frees nothing/],
		['archive', { writes: false }, /^Nothing changes on .*: Kovrel only reads there\.$/],
		['tag', { writes: false }, /^Nothing changes/],
		['move', {}, /^$/],
		['keep', { writes: false }, /^$/]
	] as const)('%s %j: %s', (decision, also, expected) => {
		expect(reachSentence(ruleOf(decision), { tag: 'Ramp' }, { ...server, ...also })).toMatch(expected);
	});
});
