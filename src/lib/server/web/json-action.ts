import { fail, type RequestEvent } from '@sveltejs/kit';
import type { ChangeName, InputOf, OutputOf } from '../process/index.ts';
import { attempted } from './answers.ts';

/* A JSON object; anything else is no input of a use case. */
function documentIn(field: FormDataEntryValue | null): object | undefined {
	try {
		const parsed: unknown = JSON.parse(String(field));
		return typeof parsed === 'object' && parsed !== null && !Array.isArray(parsed) ? parsed : undefined;
	} catch {
		return undefined;
	}
}

/**
 * An action whose form sends one JSON document in the field `wish`: the input of one use case, carried out or refused
 * as a whole.
 *
 * @param answer what the page is told, of what was done
 * @param also what the page's address adds to the input
 */
export function jsonAction<
	N extends ChangeName,
	A extends Record<string, unknown>,
	E extends RequestEvent = RequestEvent
>(name: N, answer: (done: OutputOf<N>) => A, also: (event: E) => Record<string, unknown> = () => ({})) {
	return async (event: E) => {
		const wish = documentIn((await event.request.formData()).get('wish'));
		if (!wish) return fail(400, { message: 'The form did not come in whole. Nothing was done.' });
		const { office, who } = event.locals;
		const input = { ...wish, ...also(event) } as unknown as InputOf<N>;
		const done = await attempted(office.change(name, input, who));
		return 'refused' in done ? fail(done.status, { message: done.refused }) : answer(done.done);
	};
}
