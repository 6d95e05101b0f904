import type { LayoutServerLoad } from './$types';
import { answered } from '$lib/server/web/answers.ts';
import type { Frame } from '$lib/server/process/index.ts';

/* Before sign-in, or between its two steps. */
const NOTHING: Frame = {
	demo: false,
	today: '',
	answers: 0,
	noBackup: false,
	damage: '',
	rereading: false,
	room: '',
	clock: '',
	dueSoon: 0,
	holds: 0,
	approvalDemanded: false,
	requests: 0,
	classes: [],
	mailboxes: [],
	jobs: []
};

const READS_ONLY =
	'Nothing can be written to the data folder: its disk was read-only or full when Kovrel started. Mail can be read, searched and exported; for everything else make the disk writable, and start Kovrel again.';

export const load: LayoutServerLoad = async ({ locals }) => {
	const who = locals.who as App.Locals['who'] | undefined;
	if (!who || locals.visitor?.stage !== 'whole') return { person: null, ...NOTHING };
	const frame = await answered(locals.office.ask('showFrame', undefined, who));
	const room = locals.office.canWrite ? frame.room : READS_ONLY;
	return { person: { name: who.name, role: who.role }, ...frame, room };
};
