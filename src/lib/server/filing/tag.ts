import { tagKey } from '../../../core/tags/names.ts';
import { sql } from '../database/index.ts';
import { type ItemWork, putLineOptions, tagChange } from '../docket/index.ts';
import { ensureTag, findTag } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';

const check: ItemWork['check'] = (_context, _mailbox, { options }) => {
	if (!options.tag?.trim()) throw new Refusal('bad-input', 'Name the tag. Nothing was done.');
};
const tagged = (name = '') =>
	sql`(SELECT item_id FROM item_tag JOIN tag ON tag.id = tag_id WHERE tag.name_key = ${tagKey(name)})`;

/** Adds a tag, which is created if it is new. */
export const tag: ItemWork = {
	about: 'messages',
	check,
	already: (options) => sql`item.id IN ${tagged(options.tag)}`,
	async begin({ db }, { line }) {
		const { id } = await ensureTag(db, line.options.tag ?? '');
		await putLineOptions(db, line.id, { ...line.options, tagId: id });
		return undefined;
	},
	change: tagChange('put on')
};

/** Removes a tag. */
export const untag: ItemWork = {
	about: 'messages',
	check,
	already: (options) => sql`item.id NOT IN ${tagged(options.tag)}`,
	async begin({ db }, { line }) {
		const known = await findTag(db, line.options.tag ?? '');
		await putLineOptions(db, line.id, { ...line.options, tagId: known?.id });
		return undefined;
	},
	change: tagChange('take off')
};
