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

export const load: LayoutServerLoad = async ({ locals }) => {
	const who = locals.who as App.Locals['who'] | undefined;
	if (!who || locals.visitor?.stage !== 'whole') return { person: null, ...NOTHING };
	const frame = await answered(locals.office.ask('showFrame', undefined, who));
	return { person: { name: who.name, role: who.role }, ...frame };
};
