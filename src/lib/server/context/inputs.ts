import Joi from 'joi';
import { ROLES } from '../../../core/access/roles.ts';
import { isLevel, MOST_LEVELS } from '../../../core/archive/layout.ts';
import { PROTECTIONS } from '../../../core/docket/decision.ts';
import { DECISIONS } from '../../../core/docket/decisions.ts';
import { PROPOSAL_KINDS } from '../../../core/likeness/proposals.ts';
import { GROUPINGS } from '../../../core/lots/lots.ts';
import { ATTACHMENT_KINDS } from '../../../core/message/kinds.ts';
import { MAIL_KINDS } from '../../../core/message/mail-kind.ts';
import { DUE_ACTIONS } from '../../../core/retention/terms.ts';

/*
 * Building blocks for inputs of use cases. They check the form of data; the use case checks its meaning and answers
 * with a sentence.
 */

/** The number of something stored. */
export const id = Joi.number().integer().min(1);
/** A count or a position. */
export const count = Joi.number().integer().min(0);
/** A text typed by a person. */
export const text = Joi.string().allow('').max(100_000);

export const decision = Joi.valid(...DECISIONS);
export const dueAction = Joi.valid(...DUE_ACTIONS);
export const grouping = Joi.valid(...Object.keys(GROUPINGS));
export const proposalKind = Joi.valid(...PROPOSAL_KINDS);
export const protection = Joi.valid(...PROTECTIONS);
/** The word of a class; whether there is one, the use case says. */
export const recordClass = Joi.string().max(100);
export const role = Joi.valid(...Object.keys(ROLES));
/** States in which mail can be found. */
export const foundState = Joi.valid('live', 'archived', 'binned');

/** A selection of mailboxes; undefined: all. */
export const mailboxIds = Joi.array().items(id).min(1).max(10_000);
/** A mailbox, by name or number. */
export const mailboxRef = Joi.alternatives(id, text);

/** How an archive is laid out. */
export const layout = Joi.array()
	.items(
		Joi.string().custom((level: string) => {
			if (!isLevel(level)) throw new Error('no level');
			return level;
		})
	)
	.max(MOST_LEVELS);

/** The filters of a search. */
export const narrowing = Joi.object({
	mailbox: id,
	folder: id,
	who: id,
	year: Joi.string().pattern(/^\d{4}$/),
	tag: id,
	list: id,
	kind: Joi.valid(...MAIL_KINDS),
	file: Joi.valid('any', ...ATTACHMENT_KINDS)
});

/** Messages that another page gathers. */
export const gathered = Joi.alternatives(
	Joi.object({
		of: Joi.valid('lot').required(),
		by: grouping.required(),
		key: text.required(),
		label: text,
		folder: text
	}),
	Joi.object({ of: Joi.valid('review').required(), review: id.required() }),
	Joi.object({ of: Joi.valid('waited', 'inbox').required() }),
	Joi.object({ of: Joi.valid('proposal').required(), proposal: proposalKind.required(), folder: text }),
	Joi.object({
		of: Joi.valid('due').required(),
		action: dueAction.required(),
		date: Joi.string()
			.pattern(/^\d{4}-\d{2}(-\d{2})?$/)
			.required(),
		// no retention, or no folder: 0
		retentionId: count.required(),
		folderId: count.required()
	})
);

/** The options of a decision that a person may set; those set by Kovrel are left out. */
export const decisionOptions = Joi.object({
	folder: text,
	tag: text,
	until: text,
	because: text,
	keepNewest: Joi.number().integer().min(1).max(1_000_000),
	only: protection,
	leavesFlagged: Joi.boolean(),
	class: recordClass.allow(null),
	series: text,
	terms: text
});
