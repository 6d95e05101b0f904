import type { SubmitFunction } from '@sveltejs/kit';

/** Sends a form without emptying its fields, which show what is set. */
export const keepFields: SubmitFunction =
	() =>
	({ update }) =>
		update({ reset: false });
