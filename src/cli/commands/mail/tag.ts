import { type Followed, followedSentence } from '../../../core/search/renamed.ts';
import { readColour, TAG_COLOURS } from '../../../core/tags/colours.ts';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { clearTag } from '$lib/server/filing/index.ts';
import { changeTag, requireMailbox, type TagChange, weighTags } from '$lib/server/mail/index.ts';
import { changing, command, group, oneOf, wrongWords } from '../../command.ts';
import { table } from '../../terminal.ts';

/* `tags`: names and colours of tags. Items are tagged by a docket. */
const tags = group('tags', 'list, make, rename, merge and colour tags');

command<{ mailbox?: string }>(
	'list',
	'list tags with how many messages have each',
	(c) => c.option('--mailbox <name>', 'count in one mailbox'),
	async (context, { mailbox }) => {
		const found = await weighTags(context, {
			mailboxId: mailbox === undefined ? undefined : (await requireMailbox(context, mailbox)).id
		});
		return {
			result: { tags: found },
			lines: [
				`${showCount(found.length)} tags.`,
				...table(found.map(({ name, colour, messages }) => [name, TAG_COLOURS[colour].name, showMessages(messages)]))
			]
		};
	},
	tags
);

interface TagOptions {
	make?: boolean;
	colour?: string;
	rename?: string;
	mergeInto?: string;
	hide?: boolean;
	show?: boolean;
	remove?: boolean;
}

const COLOURS = Object.values(TAG_COLOURS).map(({ name }) => name);

function readChange(tag: string, o: TagOptions): TagChange {
	const colour =
		o.colour === undefined ? undefined : (readColour(o.colour) ?? readColour(oneOf('--colour', COLOURS, o.colour)));
	if (o.make) return { tag, make: colour };
	if (colour) return { tag, colour };
	if (o.rename !== undefined) return { tag, rename: o.rename };
	if (o.hide || o.show) return { tag, hidden: o.hide === true };
	throw wrongWords('say what to change: --make, --colour, --rename, --merge-into, --hide, --show or --remove');
}

changing<TagOptions>(
	'set <tag>',
	'make or change a tag',
	(c) =>
		c
			.option('--make', 'make it')
			.option('--colour <name>', COLOURS.join(', '))
			.option('--rename <name>', 'rename it, with the tags below it')
			.option('--merge-into <tag>', 'messages tagged with it get the other tag')
			.option('--hide', 'do not list it')
			.option('--show', 'list it again')
			.option('--remove', 'remove it from every message'),
	async (context, options, tag = '') => {
		// the terminal carries out what it is told, however much it is
		let followed: Followed | undefined;
		if (options.mergeInto !== undefined || options.remove)
			await clearTag(context, { tag, mergeInto: options.mergeInto, atOnce: Infinity });
		else followed = await changeTag(context, readChange(tag, options));
		return {
			result: { tags: await weighTags(context, {}) },
			lines: [`The tag ${tag} is changed.`, followed ? followedSentence(followed) : ''].filter(Boolean)
		};
	},
	tags
);
