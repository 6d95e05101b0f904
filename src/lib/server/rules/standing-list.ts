import { showDate } from '../../../core/calendar.ts';
import { type Context, defineUseCase, id } from '../context/index.ts';
import { listKeepLines } from '../keep-list/index.ts';
import { digestLists, listsById, listSenders } from '../lists/index.ts';
import { requireMailboxId } from '../mail/index.ts';
import { listedHolds, listRetained } from '../retention/index.ts';
import { listRules, type RuleView } from './rules.ts';
import Joi from 'joi';

/** What else acts, or forbids, by itself: of one kind, in the order in which it counts. */
interface StandingGroup {
	kind: 'holds' | 'periods' | 'keep-list' | 'senders' | 'rules' | 'digest';
	title: string;
	/** Each in words. */
	lines: string[];
}

/** All that stands in a mailbox, in the order in which it counts (invariant 8). */
interface Standing {
	mailbox: string;
	rules: RuleView[];
	before: StandingGroup[];
	after: StandingGroup[];
}

/** All that stands in a mailbox: what outranks the standing decisions, these, and what follows. @throws Refusal */
async function listStanding(context: Context, input: { mailboxId: number }): Promise<Standing> {
	const { db } = context;
	const mailbox = await requireMailboxId(context, input.mailboxId);
	const holds = await listedHolds({ db }, { released: false });
	const { folders, default: usual } = await listRetained(context, { mailboxId: mailbox.id });
	const keeps = await listKeepLines(db, mailbox.id);
	const senders = await listSenders(context);
	const digests = await digestLists(db, mailbox.id);
	const named = new Map((await listsById(db, [...digests.keys()])).map((list) => [list.id, list.name]));
	return {
		mailbox: mailbox.name,
		rules: await listRules(context, { mailbox: mailbox.id }),
		before: [
			{ kind: 'holds', title: 'Holds', lines: holds.map(({ name, sentence }) => `${name}: ${sentence}`) },
			{
				kind: 'periods',
				title: 'Retention periods',
				lines: [
					...folders.filter(({ isOwn }) => isOwn).map(({ path, label }) => `${path}: ${label}`),
					...(usual ? [`The other folders: ${usual}`] : [])
				]
			},
			{ kind: 'keep-list', title: 'Keep-list', lines: keeps.map(({ text, decision }) => `“${text}”: ${decision}`) },
			{ kind: 'senders', title: 'Trusted and blocked senders', lines: senders.map(({ words }) => words) }
		],
		after: [
			{
				kind: 'digest',
				title: 'Digest',
				lines: [...digests].map(([listId, since]) => `${named.get(listId) ?? listId}, since ${showDate(since)}`)
			}
		]
	};
}

/** The use cases of this file. */
export const standingListUseCases = [
	defineUseCase({
		name: 'listStanding',
		input: () => Joi.object({ mailboxId: id.required() }).required(),
		thread: 'reader',
		right: 'administrator',
		run: listStanding
	})
] as const;
