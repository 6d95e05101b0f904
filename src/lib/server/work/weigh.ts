import { type CalendarDate, nextDay } from '../../../core/calendar.ts';
import { type AdviceFacts, adviceSentence, bestRelief, type Relief, usualCutoff } from '../../../core/weigh/advice.ts';
import { type FolderWeight, sumTree, type Weight } from '../../../core/weigh/tree.ts';
import { listFolders } from '../stores/folders.ts';
import { listMailboxes, type Mailbox } from '../stores/mailboxes.ts';
import {
	liveBeforeMonth,
	type NamedWeight,
	weightByFolder,
	weightByOrganisation,
	weightByState,
	weightByYear
} from '../stores/weights.ts';
import { type Context, today } from './context.ts';
import { requireMailboxId } from './mailboxes.ts';

/** A mailbox with what it holds. */
export interface MailboxWeight extends Mailbox, Weight {
	/** Of the messages and bytes, those in the bin. */
	binned: Weight;
	/** Outside the quota (invariant 2). */
	archived: Weight;
}

const NOTHING: Weight = { messages: 0, bytes: 0 };

/** All mailboxes with what they hold. */
export async function listWeights({ db }: Context): Promise<MailboxWeight[]> {
	const weights = await weightByState(db);
	const of = (mailboxId: number, state: string): Weight => {
		const found = weights.find((weight) => weight.mailboxId === mailboxId && weight.state === state);
		return found ? { messages: found.messages, bytes: found.bytes } : NOTHING;
	};
	return (await listMailboxes(db)).map((mailbox) => {
		const live = of(mailbox.id, 'live');
		const binned = of(mailbox.id, 'binned');
		return {
			...mailbox,
			messages: live.messages + binned.messages,
			bytes: live.bytes + binned.bytes,
			binned,
			archived: of(mailbox.id, 'archived')
		};
	});
}

/** What the weight of a mailbox is made of. */
export interface Weighing {
	mailbox: MailboxWeight;
	folders: FolderWeight[];
	years: NamedWeight[];
	organisations: NamedWeight[];
	/** The day after tomorrow: what was received from then on has a date in doubt. */
	impossibleFrom: CalendarDate;
	/** What would free most. */
	advice: { sentence: string; best: Relief | undefined; cutoff: CalendarDate };
}

const ORGANISATIONS_SHOWN = 200;

/** Weighs a mailbox: live and binned mail, from the summaries. */
export async function weighMailbox(context: Context, input: { mailboxId: number }): Promise<Weighing> {
	const { id } = await requireMailboxId(context, input.mailboxId);
	const { db } = context;
	const mailbox = (await listWeights(context)).find((candidate) => candidate.id === id) as MailboxWeight;
	const cutoff = usualCutoff(today(context));
	const facts: AdviceFacts = {
		cutoff,
		old: await liveBeforeMonth(db, id, cutoff.slice(0, 7)),
		bin: mailbox.binned,
		total: mailbox
	};
	return {
		mailbox,
		folders: sumTree(await listFolders(db, id, 'mailbox'), await weightByFolder(db, id)),
		years: await weightByYear(db, id),
		organisations: await weightByOrganisation(db, id, ORGANISATIONS_SHOWN),
		impossibleFrom: nextDay(nextDay(today(context))),
		advice: { sentence: adviceSentence(facts), best: bestRelief(facts), cutoff }
	};
}
