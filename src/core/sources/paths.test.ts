import { describe, expect, it } from 'vitest';
import { ServerPaths } from './paths.ts';

const listed = (delimiter: string, ...paths: string[]) =>
	paths.map((path) => ({ path, delimiter, ...(/Old$/.test(path) ? { specialUse: '\\Archive' } : {}) }));
const OWN = ['INBOX', 'Vessels', 'Vessels/Skua', 'Shared', 'Shared/Office', 'Shared/Office/Claims', 'Shared/Officers'];

describe('the folders of a mailbox on a server', () => {
	const all = new ServerPaths(listed('/', ...OWN, 'Old'));
	const office = new ServerPaths(listed('/', ...OWN, 'Old'), { root: 'Shared/Office' });
	const own = new ServerPaths(listed('/', ...OWN), { ofOthers: ['Shared/'], followed: new Set(['Shared/Officers']) });
	const crew = new ServerPaths(listed('.', 'INBOX', 'user.crew.INBOX', 'user.crew.INBOX.Rota', 'user.crew.Old'), {
		root: 'user.crew'
	});

	it.each([
		['all of an account', all, OWN],
		['its own, and what was followed before', own, ['INBOX', 'Vessels', 'Vessels/Skua', 'Shared/Officers']],
		['one that it shares', office, ['Shared/Office', 'Shared/Office/Claims']],
		['one with an inbox of its own', crew, []]
	])('are %s', (_which, paths, expected) => expect(OWN.filter((path) => paths.holds(path))).toEqual(expected));

	it.each([
		[all, 'INBOX', 'Inbox'],
		[all, 'Vessels/Skua', 'Vessels/Skua'],
		[all, 'Shared/Office', 'Shared/Office'],
		[office, 'Shared/Office', 'Inbox'],
		[office, 'Shared/Office/Claims', 'Claims'],
		[crew, 'user.crew.INBOX', 'Inbox'],
		[crew, 'user.crew.INBOX.Rota', 'Inbox/Rota'],
		[crew, 'user.crew.Fees 1/2', 'Fees 1∕2']
	])('have a path here and there', (paths, there, here) => {
		expect(paths.here(there)).toBe(here);
		expect(paths.there(here)).toBe(there);
	});

	it('have the root beside an inbox of its own under its name', () => expect(crew.here('user.crew')).toBe('crew'));

	// RFC 6154; else the usual name, which is made where it is missing
	it.each([
		[all, 'Old'],
		[office, 'Shared/Office/Archive'],
		[crew, 'user.crew.Old']
	])('have an archive folder', (paths, archive) => expect(paths.archive).toBe(archive));
});
