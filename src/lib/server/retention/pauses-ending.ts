import { type CalendarDate, daysAfter } from '../../../core/calendar.ts';
import { listMailboxes } from '../mail/index.ts';
import { activePauses } from '../standing/index.ts';
import { type Context, today } from '../context/index.ts';

/* A week's notice, in which a pause can be extended. */
const NOTICE_DAYS = 7;

/** A pause that ends soon. */
export interface PauseEnding {
	mailboxId: number;
	mailbox: string;
	/** Undefined: a pause of single messages. */
	folder: string | undefined;
	until: CalendarDate;
	because: string;
}

/** Pauses that end a week from today: each is reported once. */
export async function pausesEnding(context: Context): Promise<PauseEnding[]> {
	const on = daysAfter(today(context), NOTICE_DAYS);
	const ending: PauseEnding[] = [];
	for (const { id, name } of await listMailboxes(context.db))
		for (const { folder, until, because } of await activePauses(context.db, id, today(context)))
			if (until === on) ending.push({ mailboxId: id, mailbox: name, folder: folder ?? undefined, until, because });
	return ending;
}
