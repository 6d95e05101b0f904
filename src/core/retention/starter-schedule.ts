import type { SCHEDULE_COLUMNS } from './schedule.ts';

/** The authority of each example series: there is none. */
export const STARTER_AUTHORITY = 'Example, to be replaced by your own decision';

type Fields = Partial<Record<(typeof SCHEDULE_COLUMNS)[number], string>>;

const example = (fields: Fields): Fields => ({ ...fields, authority: STARTER_AUTHORITY, owner: 'Office' });

/**
 * A schedule to start from. It is an example: the law of a country sets how long papers are kept for tax and law, and
 * software never guesses that.
 */
export const STARTER_SCHEDULE: readonly Fields[] = [
	example({
		code: 'GEN-01',
		title: 'Everyday correspondence',
		description: 'Arrangements, thanks, drafts, copies for information.',
		trigger: 'received',
		period: 'P2Y',
		disposition: 'destroy'
	}),
	example({
		code: 'GEN-02',
		title: 'Correspondence with partners',
		description: 'What an answer may still refer to.',
		trigger: 'thread',
		period: 'P5Y',
		disposition: 'archive-destroy',
		archive_after: 'P2Y'
	}),
	example({
		code: 'FIN-01',
		title: 'Fuel, chandlery and other invoices',
		description: 'Invoices in and out, reminders, bank papers.',
		trigger: 'financial-year',
		period: 'P7Y',
		disposition: 'archive-destroy',
		archive_after: 'P2Y'
	}),
	example({
		code: 'FIN-02',
		title: 'Budgets and plans',
		description: 'Budgets, forecasts and what led to them.',
		trigger: 'financial-year',
		period: 'P5Y',
		disposition: 'destroy'
	}),
	example({
		code: 'BER-01',
		title: 'Berth permits',
		description: 'Bookings and permits of berths, and what was agreed on them.',
		trigger: 'calendar-year',
		period: 'P4Y',
		disposition: 'archive-destroy',
		archive_after: 'P1Y'
	}),
	example({
		code: 'CRW-01',
		title: 'Crew certificates',
		description: 'Certificates of people on board, from the day on which the folder is closed.',
		trigger: 'closed',
		period: 'P6Y',
		disposition: 'review'
	}),
	example({
		code: 'CHA-01',
		title: 'Charter contracts',
		description: 'Contracts, and what explains them, from their end.',
		trigger: 'closed',
		period: 'P7Y',
		disposition: 'review'
	}),
	example({
		code: 'VES-01',
		title: 'Vessel inspections',
		description: 'Findings of inspections and what was done about them.',
		trigger: 'received',
		period: 'P3Y',
		disposition: 'archive'
	}),
	example({
		code: 'CLM-01',
		title: 'Passenger claims',
		description: 'Claims, complaints and the answers to them.',
		trigger: 'calendar-year',
		period: 'P3Y',
		disposition: 'archive-destroy',
		archive_after: 'P1Y'
	}),
	example({
		code: 'LEG-01',
		title: 'Legal advice and minutes',
		description: 'Advice, decisions and minutes of the board.',
		trigger: 'received',
		period: 'permanent',
		disposition: 'keep'
	})
];
