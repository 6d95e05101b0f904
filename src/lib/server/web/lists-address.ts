import Joi from 'joi';
import type { ListsAsked } from '$lib/server/lists/index.ts';

/* The address of the sheet of lists. */

/** How many of the newest messages are shown first (common practice). */
export const NEWEST = 100;
const SHOWN = ['all', 'known', 'strangers', 'never-read', 'still-writing', 'blocked', 'digest'] as const;

/** The settings in the sheet's address. */
export interface ListsAddress {
	all: string;
	q: string;
	show: (typeof SHOWN)[number];
	offset: number;
	limit: number;
}

const fields = {
	all: Joi.string().allow('').max(1).default(''),
	q: Joi.string().allow('').max(200).default(''),
	show: Joi.string()
		.valid(...SHOWN)
		.default('all'),
	offset: Joi.number().integer().min(0).max(1_000_000).default(0),
	limit: Joi.number().integer().min(1).max(10_000).default(100)
};

/** Reads the address of the sheet; invalid parts are ignored. */
export function readListsAddress(address: URLSearchParams): ListsAddress {
	const given = Object.fromEntries(address);
	const sound = Object.entries(fields).filter(([name, schema]) => !schema.validate(given[name]).error);
	return Joi.object<ListsAddress>(fields).validate(Object.fromEntries(sound.map(([name]) => [name, given[name]])))
		.value as ListsAddress;
}

/** The sheet's input for the use cases. */
export function listsAsked({ all, q, show, offset, limit }: ListsAddress): Omit<ListsAsked, 'mailboxId'> {
	return { newest: all ? undefined : NEWEST, text: q, show, offset, limit };
}
