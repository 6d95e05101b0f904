import Joi from 'joi';
import type { Actions, PageServerLoad } from './$types';
import { answered, attempted } from '$lib/server/web/answers.ts';
import { formAction } from '$lib/server/web/form-action.ts';
import { Refusal } from '$lib/server/refusal.ts';

export const load: PageServerLoad = async ({ locals, url }) => {
	const code = url.searchParams.get('code');
	const shown = code ? await attempted(locals.office.ask('showSeries', { code }, locals.who)) : undefined;
	return {
		series: await answered(locals.office.ask('listSchedule', {}, locals.who)),
		versions: shown && 'done' in shown ? shown.done : [],
		firstMonth: await answered(locals.office.ask('financialYearMonth', undefined, locals.who)),
		classRows: await answered(locals.office.ask('showClasses', undefined, locals.who))
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
	look: formAction(
		schema,
		// the reason does not affect the preview
		async (fields, { locals }) => ({ tried: await locals.office.ask('trySeries', { fields }, locals.who) }),
		{ wrong: BROKEN }
	),
	save: formAction(
		schema,
		async ({ because, ...fields }, { locals }) => {
			const { code } = await locals.office.change('saveSeries', { fields, because }, locals.who);
			return { saved: code };
		},
		{ wrong: BROKEN }
	),
	remove: formAction(
		Joi.object<{ code: string; because: string }>({ code: text(40), because: text(1_000) }),
		async (wish, { locals }) => {
			await locals.office.change('discardSeries', wish, locals.who);
			return { removed: wish.code };
		},
		{ wrong: BROKEN }
	),
	removeClass: formAction(
		Joi.object<{ class: string; because: string }>({ class: text(100), because: text(1_000) }),
		async (wish, { locals }) => {
			await locals.office.change('discardClass', wish, locals.who);
			return { classRemoved: true };
		},
		{ wrong: BROKEN }
	),
	starter: formAction(Joi.object({}), async (_form, { locals }) => ({
		imported: await locals.office.change('useStarterSchedule', undefined, locals.who)
	})),
	bringIn: formAction(
		Joi.object<{ file: File; because: string }>({
			file: Joi.object().instance(File).required(),
			because: text(1_000)
		}),
		async ({ file, because }, { locals }) => {
			if (file.size === 0) throw new Refusal('bad-input', 'Select a CSV file. Nothing was changed.');
			if (file.size > MOST_CSV)
				throw new Refusal('bad-input', 'A schedule is no larger than 2 MB. Nothing was changed.');
			const input = { csv: await file.text(), because };
			return { imported: await locals.office.change('importSchedule', input, locals.who) };
		},
		{ wrong: 'Select a CSV file. Nothing was changed.' }
	)
};
