import { fail, type RequestEvent } from '@sveltejs/kit';
import type { ChangeName, InputOf, OutputOf } from '../process/index.ts';
import { attempted } from './answers.ts';

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
		const said = (await event.request.formData()).get('wish');
		let wish: unknown;
		try {
			wish = JSON.parse(String(said));
		} catch {
			return fail(400, { message: 'The form did not come in whole. Nothing was done.' });
		}
		const { office, who } = event.locals;
		const input = { ...(wish as object), ...also(event) } as unknown as InputOf<N>;
		const done = await attempted(office.change(name, input, who));
		return 'refused' in done ? fail(done.status, { message: done.refused }) : answer(done.done);
	};
}
