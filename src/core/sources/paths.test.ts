import { describe, expect, it } from 'vitest';
import { type KnownPath, ServerPaths } from './paths.ts';

const listed = (delimiter: string, ...paths: string[]) =>
	paths.map((path) => ({ path, delimiter, ...(/Old$/.test(path) ? { specialUse: '\\Archive' } : {}) }));
const same = (path: string) => ({ path, pathHere: path, pathNow: path });
const OWN = ['INBOX', 'Vessels', 'Vessels/Skua', 'Shared', 'Shared/Office', 'Shared/Office/Claims', 'Shared/Officers'];

describe('the folders of a mailbox on a server', () => {
	const all = new ServerPaths(listed('/', ...OWN, 'Old'));
	const office = new ServerPaths(listed('/', ...OWN, 'Old'), { root: 'Shared/Office' });
	const own = new ServerPaths(listed('/', ...OWN), { ofOthers: ['Shared/'], followed: [same('Shared/Officers')] });
	const courier = new ServerPaths(listed('.', 'INBOX', 'INBOX.Vessels', 'INBOX.Old'), { prefix: 'INBOX.' });
	const mail = new ServerPaths(listed('/', 'INBOX', 'Mail/Vessels', 'Elsewhere'), { prefix: 'Mail/' });
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
		// RFC 2342 section 5: a personal namespace of its own
		[courier, 'INBOX', 'Inbox'],
		[courier, 'INBOX.Vessels.Skua', 'Vessels/Skua'],
		[mail, 'INBOX', 'Inbox'],
		[mail, 'Mail/Vessels', 'Vessels'],
		[crew, 'user.crew.INBOX', 'Inbox'],
		[crew, 'user.crew.INBOX.Rota', 'Inbox/Rota'],
		[crew, 'user.crew.Fees 1/2', 'Fees 1∕2']
	])('have a path here and there', (paths, there, here) => {
		expect(paths.here(there)).toBe(here);
		expect(paths.there(here)).toBe(there);
	});

	it.each<[known: KnownPath, there: string, here: string]>([
		// the bin of the server is the one that there was here before
		[{ path: 'Papierkorb', pathHere: 'Trash', pathNow: 'Trash' }, 'Papierkorb', 'Trash'],
		[{ path: 'Papierkorb', pathHere: 'Trash', pathNow: 'Trash' }, 'Papierkorb/2024/Old', 'Trash/2024/Old'],
		[{ path: 'Papierkorb', pathHere: 'Trash', pathNow: 'Trash' }, 'Papierkorb2', 'Papierkorb2'],
		[same('Papierkorb'), 'Papierkorb/2024', 'Papierkorb/2024']
	])('are below those that have another path here', (known, there, here) => {
		const paths = new ServerPaths(listed('/', ...OWN), { followed: [known] });
		expect(paths.here(there)).toBe(here);
		expect(paths.there(here)).toBe(there);
	});

	it('are below the new name here of one that was renamed, and below the old one there until it is renamed', () => {
		const paths = new ServerPaths(listed('/', ...OWN));
		paths.learn([{ path: 'Vessels', pathHere: 'Vessels', pathNow: 'Ships' }]);
		expect([paths.here('Vessels/Tern'), paths.there('Ships'), paths.there('Vessels/Tern')]).toEqual([
			...['Ships/Tern', 'Ships', 'Vessels/Tern']
		]);
	});

	it('are below INBOX there where they are below the inbox here, as of a mailbox that was connected before', () => {
		expect(courier.there('Inbox/Rota')).toBe('INBOX.Rota');
		const followed = [{ path: 'INBOX', pathHere: 'Inbox', pathNow: 'Inbox' }];
		const known = new ServerPaths(listed('.', 'INBOX'), { prefix: 'INBOX.', followed });
		expect([known.there('Inbox/Rota'), known.here('INBOX.Rota')]).toEqual(['INBOX.Rota', 'Rota']);
	});

	it('are below no root that is the inbox here', () => {
		const root = { path: 'Shared/Office', pathHere: 'Inbox', pathNow: 'Inbox' };
		const paths = new ServerPaths(listed('/', ...OWN), { root: 'Shared/Office', followed: [root] });
		expect([paths.here('Shared/Office/Fees'), paths.there('Fees')]).toEqual(['Fees', 'Shared/Office/Fees']);
		expect(paths.there('Inbox/Fees')).toBe('Shared/Office/INBOX/Fees');
	});

	it('have the root beside an inbox of its own under its name', () => expect(crew.here('user.crew')).toBe('crew'));

	// RFC 6154; else the usual name, which is made where it is missing
	it.each([
		[all, 'Old'],
		[courier, 'INBOX.Old'],
		[mail, 'Mail/Archive'],
		[office, 'Shared/Office/Archive'],
		[crew, 'user.crew.Old']
	])('have an archive folder', (paths, archive) => expect(paths.archive).toBe(archive));
});
