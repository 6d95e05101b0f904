import Joi from 'joi';
import { readDate } from '../../../core/calendar.ts';
import { type Grouping, GROUPINGS, LOT_SORTS, type LotSort } from '../../../core/lots/lots.ts';
import { type LotsFilters, sheetQuery } from '../../../core/lots/sheet-query.ts';

/* The address of the lots sheet, for one mailbox or all. */
const groupings = Object.keys(GROUPINGS) as Grouping[];

const isDate = (text: string) => {
	if (!readDate(text)) throw new Error('no date');
	return text;
};

/** The settings in a sheet's address. */
export interface SheetFilter extends LotsFilters {
	by: Grouping;
	folder: string;
	sort: LotSort;
	descending: string;
}

const askedFields = {
	by: Joi.string()
		.valid(...groupings)
		.default('organisation'),
	q: Joi.string().allow('').max(1000).default(''),
	folder: Joi.string().allow('').max(2000).default(''),
	older: Joi.string().allow('').custom(isDate).default(''),
	larger: Joi.string()
		.allow('')
		.pattern(/^\d+(kB|MB|GB)$/)
		.default(''),
	unread: Joi.string().allow('').max(1).default(''),
	attached: Joi.string().allow('').max(1).default(''),
	unanswered: Joi.string().allow('').max(1).default(''),
	sort: Joi.string()
		.valid(...LOT_SORTS)
		.default('bytes'),
	descending: Joi.string().valid('', '0', '1').default('')
};

const askedSchema = Joi.object<SheetFilter>(askedFields);

/** Reads the address of a sheet; invalid parts are ignored. */
export function readSheetAddress(address: URLSearchParams): SheetFilter {
	const given = Object.fromEntries(address);
	const whole = askedSchema.validate(given, { stripUnknown: true });
	if (!whole.error) return whole.value;
	const sound = Object.entries(askedFields).filter(([name, schema]) => !schema.validate(given[name]).error);
	return askedSchema.validate(Object.fromEntries(sound.map(([name]) => [name, given[name]]))).value as SheetFilter;
}

/** The mailboxes of a sheet: one, several, or all. */
export interface SheetMailboxes {
	mailboxId?: number | undefined;
	mailboxIds?: number[] | undefined;
}

/** A sheet's input for the use cases. */
export function sheetOf(asked: SheetFilter, mailboxes: SheetMailboxes) {
	return { ...mailboxes, by: asked.by, query: sheetQuery(asked), folder: asked.folder || undefined };
}

/** A part of a sheet. */
export interface PartRequest {
	offset: number;
	limit: number;
}

const partSchema = Joi.object<PartRequest>({
	offset: Joi.number().integer().min(0).max(10_000_000).default(0),
	limit: Joi.number().integer().min(1).max(1_000).default(200)
}).unknown();

/** Reads which part of a sheet is requested. @throws Joi.ValidationError */
export function readPart(address: URLSearchParams): PartRequest {
	return Joi.attempt(Object.fromEntries(address), partSchema) as PartRequest;
}

/** The lot that an address opens. */
export interface LotAddress {
	by: Grouping;
	key: string;
	/** The filters of its sheet. */
	q: string;
	/** Path of the folder of its sheet. */
	below: string;
}

/** The fields of the address of an opened lot. */
export const lotFields = {
	by: Joi.string()
		.valid(...groupings)
		.default('organisation'),
	key: Joi.string().allow('').max(200).default(''),
	q: Joi.string().allow('').max(2_000).default(''),
	below: Joi.string().allow('').max(2_000).default('')
} satisfies Record<keyof LotAddress, Joi.Schema>;
