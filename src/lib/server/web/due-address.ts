import Joi from 'joi';
import { DUE_ACTIONS } from '../../../core/retention/terms.ts';

const id = Joi.number().integer().positive();

/** The selection of due mail in an address. */
export const dueItemsFields = {
	mailboxId: id,
	action: Joi.string().valid(...DUE_ACTIONS),
	date: Joi.string().pattern(/^\d{4}-\d{2}(-\d{2})?$/),
	retentionId: id,
	folderId: id,
	limit: Joi.number().integer().min(1).max(500).default(100),
	offset: Joi.number().integer().min(0).max(10_000_000).default(0)
};
