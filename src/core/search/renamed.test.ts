import { describe, expect, it } from 'vitest';
import { followedSentence, renamePath, renameInSearch } from './renamed.ts';

describe('a path since a folder was renamed', () => {
	const terne = { of: 'folder', from: 'Vessels/MV Terne', to: 'Ships/Terne' } as const;

	it.each([
		['Vessels/MV Terne', 'Ships/Terne'],
		['vessels / mv térne', 'Ships/Terne'],
		['Vessels/MV Terne/2024/March', 'Ships/Terne/2024/March'],
		['Vessels', undefined],
		['MV Terne', undefined],
		['Vessels/MV Terneborg', undefined],
		['', undefined]
	])('%j is %j', (path, since) => {
		expect(renamePath(path, terne)).toBe(since);
	});
});

it.each([
	[0, 0, ''],
	[1, 0, '1 standing decision was changed to the new name.'],
	[0, 1, '1 saved search was changed to the new name.'],
	[2, 3, '2 standing decisions and 3 saved searches were changed to the new name.']
])('%j standing decisions and %j saved searches: %j', (decisions, searches, sentence) => {
	expect(followedSentence({ decisions, searches })).toBe(sentence);
});

describe('a search since a folder or a tag was renamed', () => {
	const renamed = { of: 'folder', from: 'Vessels/MV Terne', to: 'Ships/Terne' } as const;

	it.each([
		['folder:"MV Terne"', 'folder:"Ships/Terne"'],
		['folder:"vessels/mv terne"', 'folder:"Ships/Terne"'],
		['not folder:"MV Terne" from:ola', 'not folder:"Ships/Terne" from:ola'],
		['folder:"MV Terne/2024" or folder:"MV Terne"', 'folder:"Ships/Terne/2024" or folder:"Ships/Terne"'],
		// the last name of what lies below it is what it was
		['folder:2024', 'folder:2024'],
		['folder:Vessels', 'folder:Vessels'],
		// words, quoted keys and other keys are no names of folders
		['"folder:MV Terne" subject:"MV Terne" tag:"MV Terne"', '"folder:MV Terne" subject:"MV Terne" tag:"MV Terne"'],
		['folder:MV*', '(folder:MV* or folder:"Ships/Terne")'],
		['folder:Vess*', 'folder:Vess*'],
		['folder:"MV Terne" (', 'folder:"Ships/Terne" ('],
		['folder:"MV Terne', 'folder:"MV Terne']
	])('%j is %j', (query, since) => {
		expect(renameInSearch(query, renamed, ['Inbox', 'Vessels', 'MV Terne bids'])).toBe(since);
	});

	it('means both where it meant another one as well', () => {
		expect(renameInSearch('not folder:"MV Terne" larger:5 MB', renamed, ['Pictures/MV Terne'])).toBe(
			'not (folder:"MV Terne" or folder:"Ships/Terne") larger:5 MB'
		);
	});

	it('stays where a folder is moved and keeps its name', () => {
		expect(renameInSearch('folder:"MV Terne"', { ...renamed, to: 'Sold/MV Terne' }, [])).toBe('folder:"MV Terne"');
	});

	it.each([
		['tag:Vessels', 'tag:"Fleet \\"North\\""'],
		['tag:vessels/terne', 'tag:"Fleet \\"North\\"/terne"'],
		['tag:Terne', 'tag:Terne'],
		['not tag:ves*', 'not (tag:ves* or tag:"Fleet \\"North\\"")'],
		['folder:Vessels', 'folder:Vessels']
	])('of tags, %j is %j', (query, since) => {
		expect(renameInSearch(query, { of: 'tag', from: 'Vessels', to: 'Fleet "North"' }, ['Other'])).toBe(since);
	});

	it('of a tag that was merged into another, leaves the tags below it', () => {
		const merged = { of: 'tag', from: 'Vessels', to: 'Fleet', isAlone: true } as const;
		expect(renameInSearch('tag:Vessels or tag:Vessels/Terne', merged, ['Vessels/Terne'])).toBe(
			'(tag:Vessels or tag:"Fleet") or tag:Vessels/Terne'
		);
	});
});
