import { fail } from '@sveltejs/kit';
import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered, attempted } from '$lib/server/web/answers.ts';

export const load: PageServerLoad = async ({ locals, url }) => {
	const code = url.searchParams.get('code');
	const shown = code ? await attempted(locals.office.ask('showSeries', { code }, locals.who)) : undefined;
	return {
		versions: shown && 'done' in shown ? shown.done : [],
		firstMonth: await answered(locals.office.ask('financialYearMonth', undefined, locals.who))
	};
};

const text = (most: number) => Joi.string().trim().allow('').max(most).default('');
const seriesFields = {
	code: text(40),
	title: text(200),
	description: text(2_000),
	trigger: text(30),
	period: text(30),
	disposition: text(30),
	archive_after: text(30),
	authority: text(1_000),
	owner: text(200)
};
const schema = Joi.object<Record<keyof typeof seriesFields | 'because', string>>({
	...seriesFields,
	because: text(1_000)
});
const MOST_CSV = 2_000_000;
const BROKEN = 'The form did not come in whole. Nothing was changed.';

export const actions: Actions = {
	look: async ({ locals, request }) => {
		const { value, error } = schema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: BROKEN });
		// the reason goes along, and is nothing to what it would change
		const tried = await attempted(locals.office.ask('trySeries', { fields: value }, locals.who));
		return 'refused' in tried ? fail(tried.status, { message: tried.refused }) : { tried: tried.done };
	},
	save: async ({ locals, request }) => {
		const { value, error } = schema.validate(Object.fromEntries(await request.formData()));
		if (error) return fail(400, { message: BROKEN });
		const { because, ...fields } = value;
		const done = await attempted(locals.office.change('saveSeries', { fields, because }, locals.who));
		if ('refused' in done) return fail(done.status, { message: done.refused });
		return { saved: done.done.code };
	},
	remove: async ({ locals, request }) => {
		const data = await request.formData();
		const input = { code: String(data.get('code') ?? ''), because: String(data.get('because') ?? '').slice(0, 1_000) };
		const done = await attempted(locals.office.change('dropSeries', input, locals.who));
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { removed: input.code };
	},
	starter: async ({ locals }) => {
		const done = await attempted(locals.office.change('useStarterSchedule', undefined, locals.who));
		return 'refused' in done ? fail(done.status, { message: done.refused }) : { imported: done.done };
	},
	bringIn: async ({ locals, request }) => {
		const data = await request.formData();
		const file = data.get('file');
		if (!(file instanceof File) || file.size === 0)
			return fail(400, { message: 'Choose a CSV file. Nothing was changed.' });
		if (file.size > MOST_CSV) return fail(400, { message: 'A schedule is no larger than 2 MB. Nothing was changed.' });
		const input = { csv: await file.text(), because: String(data.get('because') ?? '').slice(0, 1_000) };
		const done = await attempted(locals.office.change('importSchedule', input, locals.who));
		if ('refused' in done) return fail(done.status, { message: done.refused });
		return { imported: done.done };
	}
};
