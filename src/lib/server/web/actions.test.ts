import type { RequestEvent } from '@sveltejs/kit';
import Joi from 'joi';
import { describe, expect, it } from 'vitest';
import { Refusal } from '../refusal.ts';
import { formAction, jsonField } from './form-action.ts';
import { jsonAction } from './json-action.ts';

function event(
	fields: [string, string][],
	change: (name: string, input: unknown) => Promise<unknown> = async () => ({})
) {
	const form = new FormData();
	for (const [name, value] of fields) form.append(name, value);
	return {
		request: { formData: async () => form },
		locals: { office: { change }, who: { name: 'Ylva' } },
		params: { mailbox: '3' }
	} as unknown as RequestEvent;
}

const schema = Joi.object<{ name: string; days: number; id: number[] }>({
	name: Joi.string().required(),
	days: Joi.number().integer().min(1).default(30),
	id: Joi.array().items(Joi.number().integer()).default([])
});

describe('a form of a page', () => {
	const act = formAction(schema, async (value) => ({ value }), { lists: ['id'], at: 'bin' });

	it.each<[string, [string, string][], object]>([
		[
			'is read by its schema',
			[
				['name', 'Harbour'],
				['days', '60'],
				['id', '1'],
				['id', '2']
			],
			{ name: 'Harbour', days: 60, id: [1, 2] }
		],
		['has what is preset where a field is missing', [['name', 'Harbour']], { name: 'Harbour', days: 30, id: [] }],
		[
			'leaves out fields that nobody asked for',
			[
				['name', 'Harbour'],
				['role', 'administrator']
			],
			{ name: 'Harbour', days: 30, id: [] }
		]
	])('%s', async (_what, fields, value) => {
		expect(await act(event(fields))).toEqual({ value });
	});

	it.each<[string, [string, string][]]>([
		['a field is missing', []],
		[
			'a number is none',
			[
				['name', 'Harbour'],
				['days', 'many']
			]
		],
		[
			'a list has something else in it',
			[
				['name', 'Harbour'],
				['id', '1'],
				['id', 'x']
			]
		]
	])('does nothing where %s, and says so beside the form it belongs to', async (_what, fields) => {
		const answer = (await act(event(fields))) as { status: number; data: { message: string; at: string } };
		expect(answer.status).toBe(400);
		expect(answer.data.message).toMatch(/^The form did not come in whole: .* Nothing was done\.$/);
		expect(answer.data.at).toBe('bin');
	});

	it('says in its own words what is wrong', async () => {
		const worded = formAction(schema, async () => ({}), { wrong: 'Give the folder a name. Nothing was made.' });
		expect(await worded(event([]))).toMatchObject({ data: { message: 'Give the folder a name. Nothing was made.' } });
	});

	it('tells a refusal by its sentence, and lets any other fault through', async () => {
		const refuses = formAction(schema, () => Promise.reject(new Refusal('not-found', 'There is no such folder.')));
		expect(await refuses(event([['name', 'x']]))).toMatchObject({
			status: 404,
			data: { message: 'There is no such folder.' }
		});
		const breaks = formAction(schema, () => Promise.reject(new TypeError('a bug')));
		await expect(breaks(event([['name', 'x']]))).rejects.toThrow('a bug');
	});

	it.each<[string, unknown]>([
		['{"a":[1,2]}', { a: [1, 2] }],
		['null', null],
		['{"a":', undefined],
		[`"${'x'.repeat(1_000_001)}"`, undefined]
	])('a field of JSON is read whole or refused: %.20s', (text, expected) => {
		const { error, value } = jsonField.validate(text) as { error?: Error; value: unknown };
		expect(error ? undefined : value).toEqual(expected);
	});
});

describe('a form that sends one document', () => {
	const decide = jsonAction(
		'decideLots',
		(dockets) => ({ dockets }),
		({ params }) => ({ mailboxId: Number(params.mailbox) })
	);

	it('is the input of one use case, with what the address adds', async () => {
		const asked: unknown[] = [];
		const answer = await decide(
			event([['wish', '{"decision":"archive","mailboxId":99}']], async (name, input) => asked.push([name, input]))
		);
		expect(asked).toEqual([['decideLots', { decision: 'archive', mailboxId: 3 }]]);
		expect(answer).toEqual({ dockets: 1 });
	});

	it.each(['', '{', 'undefined', 'null', '12', '[]'])('that is %j does nothing', async (text) => {
		let calls = 0;
		const answer = await decide(event(text ? [['wish', text]] : [], async () => calls++));
		expect(answer).toMatchObject({
			status: 400,
			data: { message: 'The form did not come in whole. Nothing was done.' }
		});
		expect(calls).toBe(0);
	});

	it('that is refused says why', async () => {
		const refusing = event([['wish', '{}']], () => Promise.reject(new Refusal('changed', 'It has changed since.')));
		expect(await decide(refusing)).toMatchObject({ data: { message: 'It has changed since.' } });
	});
});
