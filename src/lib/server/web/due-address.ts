import Joi from 'joi';
import { DUE_ACTIONS, type DueAction } from '../../../core/retention/terms.ts';

const number = Joi.number().integer().min(0);

/** The address of a row of due mail. */
export interface DueAddress {
	/** Number of its mailbox. */
	of?: number;
	/** A day, or a month. */
	date?: string;
	action: DueAction;
	/** Numbers of its retention and its folder; 0: none. */
	retention: number;
	place: number;
}

/** The fields of that address. */
export const dueFields = {
	of: Joi.number().integer().positive(),
	date: Joi.string().pattern(/^\d{4}-\d{2}(-\d{2})?$/),
	action: Joi.string()
		.valid(...DUE_ACTIONS)
		.default('review'),
	retention: number.default(0),
	place: number.default(0)
} satisfies Record<keyof DueAddress, Joi.Schema>;

/** The selection of due mail in the address of a list of it. */
export const dueItemsFields = {
	mailboxId: Joi.number().integer().positive(),
	action: Joi.string().valid(...DUE_ACTIONS),
	date: Joi.string().pattern(/^\d{4}-\d{2}(-\d{2})?$/),
	retentionId: Joi.number().integer().positive(),
	folderId: Joi.number().integer().positive(),
	limit: Joi.number().integer().min(1).max(500).default(100),
	offset: Joi.number().integer().min(0).max(10_000_000).default(0)
};
