import { afterEach, describe, expect, it, vi } from 'vitest';
import type { SheetRows } from '$lib/server/lots/lots.ts';
import { LotsParts } from './lots-parts.svelte.ts';

afterEach(() => vi.unstubAllGlobals());

const PART = 200;
const labels = (from: number) =>
	({ lots: Array.from({ length: PART }, (_, n) => ({ label: `lot ${from + n}` })) }) as unknown as SheetRows;

/* A server that answers on demand. */
function slowServer() {
	const asked: { offset: number; answer: (response: Response) => void; fail: () => void }[] = [];
	vi.stubGlobal(
		'fetch',
		(address: URL) =>
			new Promise<Response>((answer, reject) =>
				asked.push({
					offset: Number(address.searchParams.get('offset')),
					answer,
					fail: () => reject(new TypeError('no connection'))
				})
			)
	);
	const answerAll = () => {
		for (const { offset, answer } of asked.splice(0)) answer(Response.json(labels(offset)));
	};
	return { asked, answerAll };
}

const sheet = () => {
	const parts = new LotsParts(() => new URL('http://here.example/part?by=list'));
	parts.begin(labels(0));
	return parts;
};

describe('the rows of a sheet', () => {
	it('come part by part, each asked for once', async () => {
		const { asked, answerAll } = slowServer();
		const parts = sheet();
		await parts.ask(0, 199);
		expect(asked).toHaveLength(0);
		const both = Promise.all([parts.ask(150, 250), parts.ask(210, 220)]);
		expect(asked.map(({ offset }) => offset)).toEqual([200]);
		expect(parts.at(250)).toBeUndefined();
		answerAll();
		await both;
		expect(parts.at(250)).toMatchObject({ label: 'lot 250' });
	});

	it('of a range are waited for, over several parts', async () => {
		const { answerAll } = slowServer();
		const parts = sheet();
		const range = parts.ask(100, 700);
		const waiting = setInterval(answerAll, 1);
		await range;
		clearInterval(waiting);
		expect([300, 500, 700].map((index) => parts.at(index)?.label)).toEqual(['lot 300', 'lot 500', 'lot 700']);
	});

	it('of the sheet before do not come into this one', async () => {
		const { answerAll } = slowServer();
		const parts = sheet();
		const late = parts.ask(200, 200);
		parts.begin(labels(5_000));
		answerAll();
		await late;
		expect(parts.at(200)).toBeUndefined();
		expect(parts.at(0)).toMatchObject({ label: 'lot 5000' });
	});

	it.each([
		['the connection fails', (one: { fail: () => void }) => one.fail()],
		[
			'the server refuses',
			(one: { answer: (response: Response) => void }) => one.answer(new Response('', { status: 503 }))
		]
	])('are asked for again where %s', async (_name, go) => {
		const { asked, answerAll } = slowServer();
		const parts = sheet();
		const first = parts.ask(200, 200);
		go(asked.shift() as never);
		await first;
		expect(parts.at(200)).toBeUndefined();
		const again = parts.ask(200, 200);
		answerAll();
		await again;
		expect(parts.at(200)).toMatchObject({ label: 'lot 200' });
	});
});
