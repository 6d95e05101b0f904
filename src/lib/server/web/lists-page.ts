import Joi from 'joi';
import { formAction } from './form-action.ts';

/** The form that sends selected lists. */
export const selectedLists = {
	schema: Joi.object<{ id: number[] }>({
		id: Joi.array().items(Joi.number().integer().positive()).min(1).max(1_000).required()
	}),
	form: { lists: ['id'], wrong: 'Select lists first. Nothing was changed.' }
};

/** The actions on lists that concern no mailbox of its own. */
export const commonListActions = {
	ask: formAction(Joi.object({}), async (_form, { locals }) => {
		await locals.office.start('leaveLists', {}, locals.who);
		return { asking: true };
	}),
	grace: formAction(Joi.object<{ days: number }>({ days: Joi.number().required() }), async ({ days }, { locals }) => {
		await locals.office.change('setGraceDays', { days }, locals.who);
		return { graceSet: true };
	})
};
