import type { ClassWord } from '../../src/core/retention/classes.ts';
import type { Context } from '../../src/lib/server/context/index.ts';
import { requireFolder, requireMailbox } from '../../src/lib/server/mail/index.ts';
import { type RetentionGiven, setRetention, useStarterSchedule } from '../../src/lib/server/retention/index.ts';

/* The periods are those of the example schedule, and a few plain ones. */
const FOLDERS: { mailbox: string; folders: string[]; retention: RetentionGiven; class?: ClassWord }[] = [
	{ mailbox: 'Harbour office', folders: ['Fuel and chandlery'], retention: { series: 'FIN-01' }, class: 'record' },
	{ mailbox: 'Harbour office', folders: ['Passenger claims'], retention: { series: 'CLM-01' }, class: 'record' },
	{ mailbox: 'Harbour office', folders: ['Newsletters'], retention: { terms: 'received destroy P2Y -' } },
	{ mailbox: 'Harbour office', folders: ['Berth permits'], retention: { series: 'BER-01' } },
	{ mailbox: 'Harbour office', folders: ['Vessel inspections'], retention: { series: 'VES-01' }, class: 'record' },
	{ mailbox: 'Tove Marstrand', folders: ['Inbox'], retention: { terms: 'received destroy P6Y -' } },
	{ mailbox: 'Tove Marstrand', folders: ['Crew certificates'], retention: { series: 'CRW-01' }, class: 'record' },
	{ mailbox: 'Workshop', folders: ['Invoices'], retention: { series: 'FIN-01' }, class: 'record' },
	{ mailbox: 'Workshop', folders: ['Yard and inspections'], retention: { series: 'VES-01' } },
	{ mailbox: 'Passenger desk', folders: ['Charter contracts'], retention: { series: 'CHA-01' }, class: 'record' },
	{ mailbox: 'Passenger desk', folders: ['Lost property'], retention: { terms: 'received destroy P2Y -' } }
];

/* What holds where no folder says otherwise. */
const DEFAULTS: Record<string, string> = {
	'Harbour office': 'received archive P5Y -',
	'Tove Marstrand': 'received archive P3Y -',
	'Passenger desk': 'received archive P3Y -'
};

/** Adopts the schedule, and says which series or period each folder follows. Nothing is switched on. */
export async function adoptSchedule(context: Context): Promise<void> {
	await useStarterSchedule(context);
	for (const { mailbox: name, folders, retention, class: recordClass } of FOLDERS) {
		const mailbox = await requireMailbox(context, name);
		const folderIds: number[] = [];
		for (const path of folders) folderIds.push((await requireFolder(context, mailbox, path)).id);
		await setRetention(context, {
			wish: { kind: 'folders', folderIds, retention, ...(recordClass ? { class: recordClass } : {}) }
		});
	}
	await setRetention(context, {
		wish: { kind: 'named', name: 'Drafts', retention: { terms: 'received destroy P1Y -' }, class: 'working' }
	});
	for (const [name, terms] of Object.entries(DEFAULTS)) {
		const { id: mailboxId } = await requireMailbox(context, name);
		await setRetention(context, { wish: { kind: 'default', mailboxId, retention: { terms } } });
	}
}
