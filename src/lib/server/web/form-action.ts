import { fail, type RequestEvent } from '@sveltejs/kit';
import Joi, { type ObjectSchema } from 'joi';
import { attempted } from './answers.ts';

/* Fields that may be repeated are lists in the schema. */
function fieldsOf(form: FormData, lists: readonly string[]): Record<string, unknown> {
	const fields: Record<string, unknown> = Object.fromEntries([...form].filter(([name]) => !lists.includes(name)));
	for (const name of lists) fields[name] = form.getAll(name);
	return fields;
}

/** A field with one JSON document, which the use case validates. */
export const jsonField = Joi.string()
	.max(1_000_000)
	.custom((text: string) => JSON.parse(text) as unknown);

/**
 * An action of a page: validates the form, runs a function and returns its answer; a refusal becomes a `message` for
 * the form.
 *
 * @param options.lists names of fields that may come more than once
 * @param options.wrong the message for an invalid form
 * @param options.at the form to which a refusal belongs, on a page with several
 */
export function formAction<V, A extends Record<string, unknown>, E extends RequestEvent = RequestEvent>(
	schema: ObjectSchema<V>,
	act: (value: V, event: E) => Promise<A>,
	{ lists = [], wrong, at }: { lists?: readonly string[]; wrong?: string; at?: string } = {}
) {
	return async (event: E) => {
		const read = schema.validate(fieldsOf(await event.request.formData(), lists), { stripUnknown: true });
		if (read.error)
			return fail(400, {
				message: wrong ?? `The form did not come in whole: ${read.error.message}. Nothing was done.`,
				at
			});
		const done = await attempted(act(read.value as V, event));
		return 'refused' in done ? fail(done.status, { message: done.refused, at }) : done.done;
	};
}
