import { describe, expect, it } from 'vitest';
import { actingAs, type Context } from '../context/context.ts';
import { administratorNamed } from '../../../core/access/roles.ts';
import { addPerson, changePerson } from '../people/people.ts';
import { openOffice } from '../testing/office.ts';
import { linkForFirst, personOfToken, signIn, signInByLink } from './sign-in.ts';

const PASSWORD = 'four ferries to Torsay';
const from = { device: 'a browser', address: '192.0.2.1' };

async function office(): Promise<{ context: Context; token: string }> {
	const context = await openOffice();
	const link = (await linkForFirst(context)) as string;
	const person = { name: 'Ylva', address: 'ylva@skerryline.example', password: PASSWORD };
	const { token } = await signInByLink(context, { token: link, ...person, from });
	return { context, token };
}

const messageOf = (attempt: Promise<unknown>) =>
	attempt.then(
		() => 'in',
		(error: Error) => (/too many/.test(error.message) ? 'wait' : 'wrong')
	);

describe('signing in', () => {
	it.each([
		['one account by its address', () => 'ylva@skerryline.example'],
		['one account by its name', () => 'Ylva'],
		['one account by either', (n: number) => (n % 2 === 0 ? 'Ylva' : 'YLVA@skerryline.example')]
	])('lets no burst pass the wait: %s', async (_name, addressOf) => {
		const { context } = await office();
		const attempts = Array.from({ length: 40 }, (_, n) =>
			messageOf(
				signIn(context, {
					address: addressOf(n),
					password: `wrong ${n}`,
					// from everywhere, as a botnet does
					from: { device: 'a browser', address: `198.51.100.${n}` }
				})
			)
		);
		const answers = await Promise.all(attempts);
		expect(answers.filter((answer) => answer === 'wrong').length).toBeLessThan(8);
		expect(answers.filter((answer) => answer === 'wait').length).toBeGreaterThan(32);
		// not even with the right one
		const right = { address: 'Ylva', password: PASSWORD, from: { ...from, address: '203.0.113.9' } };
		expect(await messageOf(signIn(context, right))).toBe('wait');
	});

	it('is not held up by attempts that were right', async () => {
		const { context } = await office();
		for (let n = 0; n < 30; n++)
			expect(await messageOf(signIn(context, { address: 'Ylva', password: PASSWORD, from }))).toBe('in');
	});

	it('ends the session that the browser had, and no other', async () => {
		const { context, token } = await office();
		const elsewhere = await signIn(context, { address: 'Ylva', password: PASSWORD, from });
		const again = await signIn(context, { address: 'Ylva', password: PASSWORD, from: { ...from, session: token } });
		const isIn = async (one: string) => (await personOfToken(context, { token: one })) !== undefined;
		expect([await isIn(token), await isIn(elsewhere.token), await isIn(again.token)]).toEqual([false, true, true]);
	});

	it('is asked for again when the role of a person changes', async () => {
		const { context, token } = await office();
		const admin = actingAs(context, administratorNamed('tester'));
		await addPerson(admin, { name: 'Maren', address: 'maren@skerryline.example', role: 'administrator' });
		await changePerson(admin, { person: 'Ylva', role: 'colleague' });
		expect(await personOfToken(context, { token })).toBeUndefined();
	});
});
