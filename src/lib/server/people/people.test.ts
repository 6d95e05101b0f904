import { TOTP, Secret } from 'otpauth';
import { beforeEach, describe, expect, it } from 'vitest';
import type { Actor } from '../../../core/access/roles.ts';
import { openOffice } from '../testing/office.ts';
import { listLedger } from '../ledger/ledger-store.ts';
import { removeCodes, endSessions, myAccount, offerCode, useCodes } from '../access/account.ts';
import { actingAs, type Context } from '../context/context.ts';
import { addPerson, changeGroup, changePerson, listPeople, newLink, setAccess } from './people.ts';
import {
	changePassword,
	signInByLink,
	enterCode,
	type From,
	linkForFirst,
	readLink,
	signIn,
	personOfToken
} from '../access/sign-in.ts';

const PASSWORD = 'four ferries to Torsay';
const from = (address = '192.0.2.1', known?: string): From => ({ device: 'a browser', address, known });

let context: Context;
/* The machine's clock, moved by the tests. */
let seconds = 0;
beforeEach(async () => {
	seconds = Date.parse('2026-11-25T12:00:00Z') / 1000;
	context = { ...(await openOffice()), machineNow: () => new Date(seconds * 1000) };
});

async function first(): Promise<Actor> {
	const token = (await linkForFirst(context)) as string;
	return (
		await signInByLink(context, {
			token,
			name: 'Ylva Strand',
			address: 'ylva@s.example',
			password: PASSWORD,
			from: from()
		})
	).actor;
}

async function another(name: string, role: Actor['role'] = 'colleague'): Promise<Actor> {
	const { link } = await addPerson(context, { name, address: `${name}@s.example`, role });
	return (await signInByLink(context, { token: link, password: PASSWORD, from: from() })).actor;
}

const enter = (address: string, password = PASSWORD, where = from()) =>
	signIn(context, { address, password, from: where });

describe('coming in', () => {
	it('the first one by a link that opens once, and becomes the administrator', async () => {
		const token = (await linkForFirst(context)) as string;
		const wish = { token, name: ' Ylva  Strand ', address: 'ylva@s.example', from: from() };
		await expect(signInByLink(context, { ...wish, password: 'short' })).rejects.toThrow('at least 12');
		const { actor } = await signInByLink(context, { ...wish, password: PASSWORD });
		expect(actor).toMatchObject({ name: 'Ylva Strand', role: 'administrator' });
		await expect(signInByLink(context, { ...wish, name: 'Mallory', password: PASSWORD })).rejects.toThrow(
			'does not open'
		);
		expect(await linkForFirst(context)).toBeUndefined();
		expect((await listLedger(context.db)).map(({ action }) => action)).toEqual([
			'signed-in',
			'password-set',
			'person-added',
			'archive-begun'
		]);
	});

	it('a new link for the first one shuts the one before; each lasts a day', async () => {
		const before = (await linkForFirst(context)) as string;
		const token = (await linkForFirst(context)) as string;
		await expect(readLink(context, { token: before })).rejects.toThrow('does not open');
		seconds += 86_400;
		await expect(readLink(context, { token })).rejects.toThrow('does not open');
	});

	it('with address or name, and the password; says the same of whatever is wrong', async () => {
		await first();
		expect((await enter('YLVA@s.example')).stage).toBe('whole');
		expect((await enter('ylva strand')).actor.name).toBe('Ylva Strand');
		const wrong = 'The address or the password is not right. You are not signed in.';
		await expect(enter('ylva@s.example', 'four ferries to Torsa')).rejects.toThrow(wrong);
		await expect(enter('nobody@s.example')).rejects.toThrow(wrong);
		await another('Jonas');
		await changePerson(context, { person: 'Jonas', ended: true });
		await expect(enter('Jonas@s.example')).rejects.toThrow(wrong);
	});

	it('too many wrong passwords have to wait, for a while; not who was here before from this browser', async () => {
		await first();
		const { known } = await enter('ylva@s.example');
		for (let n = 0; n < 5; n++) await expect(enter('ylva@s.example', 'wrong')).rejects.toThrow('not right');
		await expect(enter('ylva@s.example')).rejects.toThrow('Wait 15 seconds');
		// a stranger cannot keep her out: failures elsewhere do not count against her own browser
		expect((await enter('ylva@s.example', PASSWORD, from('192.0.2.9', known))).stage).toBe('whole');
		// another person's mark does not count
		await expect(enter('ylva@s.example', PASSWORD, from('192.0.2.9', known.replace(/.$/, '~')))).rejects.toThrow(
			'Wait'
		);
		seconds += 15;
		expect((await enter('ylva@s.example')).stage).toBe('whole');
		await expect(enter('ylva@s.example', 'wrong')).rejects.toThrow('not right');
	});

	it('one address that tries many accounts has to wait; others come in', async () => {
		await first();
		for (let n = 0; n < 20; n++) await expect(enter(`nobody${n}`, 'wrong')).rejects.toThrow('not right');
		await expect(enter('ylva@s.example')).rejects.toThrow('Wait');
		expect((await enter('ylva@s.example', PASSWORD, from('192.0.2.2'))).stage).toBe('whole');
	});
});

describe('sessions', () => {
	it('are known by their token alone, end, and are ended', async () => {
		const ylva = await first();
		const one = await enter('ylva@s.example');
		const two = await enter('ylva@s.example');
		const visit = await personOfToken(context, { token: one.token });
		expect(visit).toMatchObject({ actor: ylva, stage: 'whole', isStale: false });
		expect(await personOfToken(context, { token: `${one.token}x` })).toBeUndefined();
		const self = actingAs(context, ylva);
		expect((await myAccount(self)).sessions).toHaveLength(3);
		await endSessions(self, { except: visit?.sessionId ?? 0 });
		expect(await personOfToken(context, { token: two.token })).toBeUndefined();
		seconds += 12 * 3_600 + 1;
		expect(await personOfToken(context, { token: one.token })).toBeUndefined();
	});

	it('end with another password, a new link, and the end of access; nobody ends those of others', async () => {
		const ylva = await first();
		const jonas = await another('Jonas');
		const token = async () => (await enter('Jonas@s.example')).token;
		const isIn = async (shown: string) => (await personOfToken(context, { token: shown })) !== undefined;
		let shown = await token();
		await endSessions(actingAs(context, ylva), { except: 0 });
		expect(await isIn(shown)).toBe(true);
		const self = actingAs(context, jonas);
		await expect(
			changePassword(self, { before: 'wrong', password: 'lighthouse at Vesterøy', sessionId: 0 })
		).rejects.toThrow('not your password');
		await changePassword(self, { before: PASSWORD, password: 'lighthouse at Vesterøy', sessionId: 0 });
		expect(await isIn(shown)).toBe(false);
		shown = (await enter('Jonas@s.example', 'lighthouse at Vesterøy')).token;
		const { link } = await newLink(context, { person: 'Jonas' });
		expect(await isIn(shown)).toBe(false);
		await expect(enter('Jonas@s.example', 'lighthouse at Vesterøy')).rejects.toThrow('not right');
		shown = (await signInByLink(context, { token: link, password: PASSWORD, from: from() })).token;
		await changePerson(context, { person: 'Jonas', ended: true });
		expect(await isIn(shown)).toBe(false);
	});
});

describe('one-time codes', () => {
	const codeNow = (secret: string) =>
		new TOTP({ secret: Secret.fromBase32(secret), digits: 6 }).generate({ timestamp: seconds * 1000 });

	it('are asked for behind the password, once each; recovery codes as well', async () => {
		const self = actingAs(context, await first());
		const { secret } = await offerCode(self);
		await expect(useCodes(self, { secret, code: '000000' })).rejects.toThrow('not the code');
		const recovery = await useCodes(self, { secret, code: codeNow(secret) });
		expect(recovery).toHaveLength(10);
		const half = await enter('ylva@s.example');
		expect(half.stage).toBe('code');
		expect((await personOfToken(context, { token: half.token }))?.stage).toBe('code');
		const give = (code: string, token = half.token) => enterCode(context, { token, code, from: from() });
		// the one they were set up with was used
		await expect(give(codeNow(secret))).rejects.toThrow('not right, or was used');
		seconds += 30;
		const whole = await give(codeNow(secret));
		expect(whole.stage).toBe('whole');
		// a token seen before is invalid afterwards
		expect(await personOfToken(context, { token: half.token })).toBeUndefined();
		await expect(give(codeNow(secret), whole.token)).rejects.toThrow('Sign in again');
		const next = (await enter('ylva@s.example')).token;
		expect((await give(recovery[3]?.toUpperCase() ?? '', next)).stage).toBe('whole');
		await expect(give(recovery[3] ?? '', (await enter('ylva@s.example')).token)).rejects.toThrow('not right');
		expect((await myAccount(self)).recoveryCodesLeft).toBe(9);
	});

	it('wrong ones have to wait', async () => {
		const self = actingAs(context, await first());
		const { secret } = await offerCode(self);
		await useCodes(self, { secret, code: codeNow(secret) });
		const { token } = await enter('ylva@s.example');
		const give = () => enterCode(context, { token, code: '000000', from: from() });
		for (let n = 0; n < 5; n++) await expect(give()).rejects.toThrow('not right');
		await expect(give()).rejects.toThrow('Wait');
	});

	it('are replaced and given up with the password alone, and wrong ones have to wait', async () => {
		const self = actingAs(context, await first());
		const { secret } = await offerCode(self);
		await useCodes(self, { secret, code: codeNow(secret) });
		const other = (await offerCode(self)).secret;
		// somebody has stolen the session
		const replace = (password?: string) => useCodes(self, { secret: other, code: codeNow(other), password });
		for (const password of [undefined, '', 'a guess'])
			await expect(replace(password)).rejects.toThrow('not your password');
		await expect(removeCodes(self, { password: 'a guess' })).rejects.toThrow('not your password');
		await expect(removeCodes(self, { password: 'a guess' })).rejects.toThrow('not your password');
		await expect(removeCodes(self, { password: PASSWORD })).rejects.toThrow('Wait');
		await expect(replace(PASSWORD)).rejects.toThrow('Wait');
		seconds += 3_600;
		expect(await replace(PASSWORD)).toHaveLength(10);
		await removeCodes(self, { password: PASSWORD });
		expect((await enter('ylva@s.example')).stage).toBe('whole');
	});

	it('can be demanded of administrators', async () => {
		const self = actingAs(context, await first());
		const before = (await enter('ylva@s.example')).token;
		await setAccess(context, { codesDemanded: true });
		expect(await personOfToken(context, { token: before })).toBeUndefined();
		expect((await enter('ylva@s.example')).stage).toBe('code-wanted');
		await another('Jonas');
		expect((await enter('Jonas@s.example')).stage).toBe('whole');
		const { secret } = await offerCode(self);
		await useCodes(self, { secret, code: codeNow(secret) });
		await expect(removeCodes(self, { password: PASSWORD })).rejects.toThrow('have to use');
		expect((await enter('ylva@s.example')).stage).toBe('code');
	});
});

describe('people', () => {
	it('there is always an administrator', async () => {
		await first();
		await expect(changePerson(context, { person: 'Ylva Strand', role: 'colleague' })).rejects.toThrow(
			'only administrator'
		);
		await expect(changePerson(context, { person: 'Ylva Strand', ended: true })).rejects.toThrow('only administrator');
		await another('Ruben', 'administrator');
		await changePerson(context, { person: 'Ylva Strand', role: 'auditor' });
	});

	it('nobody ends their own access or changes their own role', async () => {
		await first();
		await another('Ruben', 'administrator');
		const actor = { personId: 1, name: 'Ylva Strand', role: 'administrator' } as const;
		const self = { ...context, actor };
		await expect(changePerson(self, { person: 'Ylva Strand', ended: true })).rejects.toThrow('another administrator');
		await expect(changePerson(self, { person: 'ylva@s.example', role: 'colleague' })).rejects.toThrow('another');
		await changePerson(self, { person: 'Ruben', ended: true });
	});

	it.each([
		[{ name: ' ', address: 'a@s.example', role: 'colleague' }, 'needs a name'],
		[{ name: 'A', address: 'a b', role: 'colleague' }, 'without blanks'],
		[{ name: 'A', address: 'a', role: 'owner' }, 'no role'],
		[{ name: 'YLVA STRAND', address: 'a', role: 'colleague' }, 'is here already'],
		[{ name: 'A', address: 'Ylva@S.example', role: 'colleague' }, 'is here already']
	] as [Parameters<typeof addPerson>[1], string][])('refuses %j', async (wish, says) => {
		await first();
		await expect(addPerson(context, wish)).rejects.toThrow(says);
	});

	it('groups have members', async () => {
		await first();
		await another('Jonas');
		await changeGroup(context, { group: 'Desk', members: ['Jonas', 'ylva@s.example'] });
		expect((await listPeople(context)).groups).toMatchObject([{ name: 'Desk', members: [{}, {}] }]);
		await expect(changeGroup(context, { group: 'Desk', members: ['Nobody'] })).rejects.toThrow('nobody called');
		await changeGroup(context, { group: 'desk', remove: true });
		expect((await listPeople(context)).groups).toEqual([]);
	});

	it('no secret is in the ledger, nor in the list of people', async () => {
		const self = actingAs(context, await first());
		const { link } = await addPerson(context, { name: 'Jonas', address: 'j', role: 'colleague' });
		const { secret } = await offerCode(self);
		const [code = ''] = await useCodes(self, {
			secret,
			code: new TOTP({ secret: Secret.fromBase32(secret), digits: 6 }).generate({ timestamp: seconds * 1000 })
		});
		const { token } = await enter('ylva@s.example');
		const told = JSON.stringify([await listLedger(context.db), await listPeople(context), await myAccount(self)]);
		for (const hidden of [link, secret, code, token, PASSWORD, '$argon2']) expect(told).not.toContain(hidden);
		// nor does the file contain the secret, except where codes are computed from it
		const rows = JSON.stringify(
			await context.db.raw(
				`SELECT hex(hash) AS hash, person_id FROM session UNION ALL SELECT hex(hash), person_id FROM entry_link UNION ALL SELECT hex(hash), person_id FROM recovery_code`
			)
		);
		for (const hidden of [link, code.replaceAll('-', ''), token]) expect(rows).not.toContain(hidden);
	});
});
