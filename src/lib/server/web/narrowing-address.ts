import Joi from 'joi';
import { ATTACHMENT_KINDS } from '../../../core/message/kinds.ts';
import { MAIL_KINDS } from '../../../core/message/mail-kind.ts';
import type { Narrowing } from '../../../core/search/narrowing.ts';

const id = Joi.number().integer().min(1).empty('');

/** The filters of a search in an address or a form. */
export const narrowingFields = {
	mailbox: id,
	folder: id,
	who: id,
	year: Joi.string()
		.pattern(/^\d{4}$/)
		.empty(''),
	tag: id,
	list: id,
	kind: Joi.string()
		.valid(...MAIL_KINDS)
		.empty(''),
	file: Joi.string()
		.valid('any', ...ATTACHMENT_KINDS)
		.empty('')
} satisfies Record<keyof Narrowing, Joi.Schema>;

/** Only the filters of a search. */
export function narrowingOf({ mailbox, folder, who, year, tag, list, kind, file }: Narrowing): Narrowing {
	return { mailbox, folder, who, year, tag, list, kind, file };
}
