import Joi from 'joi';
import { RECORD_CLASSES } from '../../../core/retention/classes.ts';
import { DUE_ACTIONS, readTerms } from '../../../core/retention/terms.ts';
import type { Given, RetentionWish } from '$lib/server/retention/index.ts';

/* The doors of retention: what forms say of periods, series and classes. */
const terms = Joi.string()
	.max(100)
	.custom((text: string) => {
		readTerms(text);
		return text;
	});

/** What a decision on messages says of their retention. */
export const retainingOptions = {
	class: Joi.string().valid(...RECORD_CLASSES, null),
	series: Joi.string().max(40),
	terms
};

const given = Joi.alternatives<Given>(
	Joi.object({ series: Joi.string().max(40).required() }),
	Joi.object({ terms: terms.required() }),
	Joi.valid('none')
);
const recordClass = Joi.string().valid(...RECORD_CLASSES, null);
const id = Joi.number().integer().positive();

const wishSchema = Joi.alternatives<RetentionWish>(
	Joi.object({
		kind: Joi.valid('folders').required(),
		folderIds: Joi.array().items(id).min(1).max(10_000).required(),
		retention: given,
		class: recordClass,
		closedOn: Joi.string().max(10).allow(null)
	}),
	Joi.object({ kind: Joi.valid('default').required(), mailboxId: id.required(), retention: given.required() }),
	Joi.object({
		kind: Joi.valid('named').required(),
		name: Joi.string().max(200).required(),
		retention: given,
		class: recordClass
	}),
	Joi.object({
		kind: Joi.valid('class').required(),
		class: Joi.string().valid('transitory', 'working').required(),
		retention: given.required()
	}),
	Joi.object({ kind: Joi.valid('reset').required(), mailboxId: id.required() })
);

/** Reads a wish that a page sends as JSON. @returns undefined where it is none */
export function readRetentionWish(data: FormData): RetentionWish | undefined {
	try {
		const { value, error } = wishSchema.validate(JSON.parse(String(data.get('wish'))));
		return error ? undefined : (value as RetentionWish);
	} catch {
		return undefined;
	}
}

/** Which of what is due is asked for, as it stands in an address. */
export const dueItemsFields = {
	mailboxId: id,
	action: Joi.string().valid(...DUE_ACTIONS),
	date: Joi.string().pattern(/^\d{4}-\d{2}(-\d{2})?$/),
	retentionId: id,
	folderId: id,
	limit: Joi.number().integer().min(1).max(500).default(100),
	offset: Joi.number().integer().min(0).max(10_000_000).default(0)
};
