import { type Followed, followedDetails } from '../../../core/search/renamed.ts';
import { TAG_COLOURS, type TagColour } from '../../../core/tags/colours.ts';
import { tagNames } from '../../../core/tags/names.ts';
import { type Db, inTransaction } from '../database/index.ts';
import { Refusal } from '../refusal.ts';
import { appendLedger } from '../ledger/index.ts';
import { followRename } from './renamed-store.ts';
import { countTags, ensureTag, findTag, putTag, readTags, renameTag, type Tag, type TagCount } from './tags-store.ts';
import { type Context, defineUseCase, id, text } from '../context/index.ts';
import Joi from 'joi';

/** All tags. */
export const listTags = ({ db }: Context): Promise<Tag[]> => readTags(db);

/** All tags with their counts, of one mailbox or all: every tagged message is looked up. */
export async function weighTags({ db }: Context, input: { mailboxId?: number | undefined }): Promise<TagCount[]> {
	return countTags(db, input.mailboxId);
}

/** The tag of that name. @throws Refusal */
export async function requireTag(db: Db, name: string): Promise<Tag> {
	const found = await findTag(db, name);
	if (!found) throw new Refusal('not-found', `There is no tag "${name}". Nothing was changed.`);
	return found;
}

/** A change of a tag. */
export type TagChange = { tag: string } & (
	{ make: TagColour | undefined } | { colour: TagColour } | { hidden: boolean } | { rename: string }
);

/**
 * Creates, colours, hides or renames a tag. Items stay in their folders.
 *
 * @returns where it is renamed, what named it and follows
 * @throws Refusal
 */
export async function changeTag(context: Context, input: TagChange): Promise<Followed | undefined> {
	const refuse = (message: string) => new Refusal('bad-input', `${message} Nothing was changed.`);
	return inTransaction(context.db, async (db) => {
		const note = (details: Record<string, unknown>) =>
			appendLedger(db, { at: context.now(), by: context.actor, action: 'tag-changed', details });
		if ('make' in input) {
			if (tagNames(input.tag).length === 0) throw refuse('A tag needs a name.');
			const made = await ensureTag(db, input.tag);
			if (input.make) await putTag(db, { ...made, colour: input.make });
			await note({ tag: made.name, made: true, colour: input.make });
			return undefined;
		}
		const tag = await requireTag(db, input.tag);
		if ('colour' in input) {
			if (!(input.colour in TAG_COLOURS)) throw refuse(`There is no colour "${String(input.colour)}".`);
			await putTag(db, { ...tag, colour: input.colour });
			await note({ tag: tag.name, colour: input.colour, before: tag.colour });
			return undefined;
		}
		if ('hidden' in input) {
			await putTag(db, { ...tag, hidden: input.hidden });
			await note({ tag: tag.name, hidden: input.hidden });
			return undefined;
		}
		if (tagNames(input.rename).length === 0) throw refuse('A tag needs a name.');
		const there = await findTag(db, input.rename);
		if (there && there.id !== tag.id)
			throw refuse(`There is a tag ${there.name} already. To make one of the two, merge them.`);
		const to = tagNames(input.rename).join('/');
		await renameTag(db, tag, to);
		const followed = await followRename({ ...context, db }, { of: 'tag', id: tag.id, from: tag.name, to });
		await note({ tag: tag.name, renamed: to, ...followedDetails(followed) });
		return followed;
	});
}

/** The use cases of this file. */
export const tagsUseCases = [
	defineUseCase({ name: 'listTags', thread: 'reader', right: 'administrator', run: listTags }),
	defineUseCase({
		name: 'weighTags',
		input: () => Joi.object({ mailboxId: id }).required(),
		thread: 'heavy',
		right: 'administrator',
		run: weighTags
	}),
	defineUseCase({
		name: 'changeTag',
		input: () =>
			Joi.alternatives(
				Joi.object({
					tag: text.required(),
					make: Joi.valid(...Object.keys(TAG_COLOURS))
				}),
				Joi.object({
					tag: text.required(),
					colour: Joi.valid(...Object.keys(TAG_COLOURS)).required()
				}),
				Joi.object({ tag: text.required(), hidden: Joi.boolean().required() }),
				Joi.object({ tag: text.required(), rename: text.required() })
			).required(),
		thread: 'writer',
		right: 'administrator',
		run: changeTag
	})
] as const;
