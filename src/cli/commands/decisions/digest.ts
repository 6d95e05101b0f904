import { DIGEST_RHYTHMS } from '../../../core/lists/digest.ts';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { carryOut } from '$lib/server/docket/index.ts';
import { removeFromDigest, listIds, listLists, prepareLists } from '$lib/server/lists/index.ts';
import { makeDigests, setDigest } from '$lib/server/digest/index.ts';
import { requireMailbox } from '$lib/server/mail/index.ts';
import { changing, oneOf } from '../../command.ts';

interface DigestOptions {
	mailbox: string;
	add?: string[];
	remove?: string[];
	every?: string;
	folder?: string;
	make?: boolean;
}

changing<DigestOptions>(
	'digest',
	'fold lists into one message a day or week, and make the digests that are due',
	(c) =>
		c
			.requiredOption('--mailbox <name>', 'mailbox')
			.option('--add <list...>', 'fold lists, by number or identifier')
			.option('--remove <list...>', 'take lists out')
			.option('--every <day|week>', 'how often')
			.option('--folder <path>', 'folder for the digests')
			.option('--make', 'make the digests that are due now, of all mailboxes'),
	async (context, { mailbox: name, add, remove, every, folder, make }) => {
		const { id } = await requireMailbox(context, name);
		if (every !== undefined || folder !== undefined)
			await setDigest(context, {
				mailbox: name,
				every: every === undefined ? undefined : oneOf('--every', DIGEST_RHYTHMS, every),
				folder
			});
		if (remove) await removeFromDigest(context, { mailboxId: id, ids: await listIds(context, remove) });
		if (add) {
			const docket = await prepareLists(context, {
				mailboxId: id,
				ids: await listIds(context, add),
				decision: 'digest',
				backIssues: 'leave'
			});
			await carryOut(context, { id: docket.id });
		}
		const made = make ? await makeDigests(context) : [];
		const mailbox = await requireMailbox(context, name);
		const { lists } = await listLists(context, { mailboxId: id, show: 'digest', limit: 1_000_000 });
		return {
			result: {
				mailbox: mailbox.name,
				every: mailbox.digestEvery,
				folder: mailbox.digestFolder,
				lists: lists.map(({ id, identifier, name }) => ({ id, listId: identifier, name })),
				made: made.map(({ docket, ...one }) => ({ ...one, docket: docket ?? null }))
			},
			lines: [
				`${mailbox.name}: ${showCount(lists.length)} lists are folded into one message a ${mailbox.digestEvery}, in ${mailbox.digestFolder}.`,
				...lists.map(({ id, name }) => `  ${id}  ${name}`),
				...made.map(
					({ mailbox, day, messages, docket, asks }) =>
						`Made the digest of ${day} for ${mailbox}: ${showMessages(messages)}.${asks ? ` "kovrel docket carry-out ${docket}" archives the originals.` : ''}`
				)
			]
		};
	}
);
