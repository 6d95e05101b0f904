// Sets what somebody at the ferry operator has set before the demo begins: set-up-office. KOVREL_DATA names the data folder.
import type { RecordClass } from '../src/core/retention/classes.ts';
import { dataFolder } from '../src/lib/server/office.ts';
import { placeHold } from '../src/lib/server/work/holds.ts';
import { requireFolder, requireMailbox } from '../src/lib/server/work/mailboxes.ts';
import { openContext } from '../src/lib/server/work/open-context.ts';
import { type Given, setRetention } from '../src/lib/server/work/retain.ts';
import { useStarterSchedule } from '../src/lib/server/work/schedule.ts';

/* The periods are those of the example schedule, and a few plain ones. Nothing is switched on. */
const FOLDERS: { mailbox: string; folders: string[]; retention: Given; class?: RecordClass }[] = [
	{
		mailbox: 'Harbour office',
		folders: ['Fuel and chandlery'],
		retention: { series: 'FIN-01' },
		class: 'record'
	},
	{ mailbox: 'Harbour office', folders: ['Complaints'], retention: { series: 'CMP-01' }, class: 'record' },
	{ mailbox: 'Harbour office', folders: ['Newsletters'], retention: { terms: 'received destroy P2Y -' } },
	{ mailbox: 'Harbour office', folders: ['Berths', 'Vessels'], retention: { series: 'GEN-02' } },
	{ mailbox: 'Workshop', folders: ['Invoices'], retention: { series: 'FIN-01' }, class: 'record' },
	{ mailbox: 'Workshop', folders: ['Inspections'], retention: { series: 'LEG-01' } },
	{ mailbox: 'Passenger desk', folders: ['Lost property'], retention: { terms: 'received review P6M -' } }
];

const context = await openContext(dataFolder());
try {
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
	const { id } = await requireMailbox(context, 'Harbour office');
	await setRetention(context, {
		wish: { kind: 'default', mailboxId: id, retention: { terms: 'received archive P5Y -' } }
	});
	await placeHold(context, {
		name: 'Terne claim',
		because: 'The insurer asks for everything about the Terne',
		from: 'Berglund Solicitors',
		query: 'terne'
	});
} finally {
	await context.db.destroy();
}
