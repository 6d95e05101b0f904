import type { RuleGiven } from '../../src/lib/server/rules/index.ts';

/** The standing decisions of the harbour office; the second and the fourth meet in the Harbour Times. */
export const STANDING: RuleGiven[] = [
	{ name: 'Sent mail', query: 'folder:Sent', stay: { olderThan: 'P3M' }, then: 'archive', options: {} },
	{
		name: 'Harbour Times',
		query: 'list:harbourtimes',
		stay: { newest: 3, olderThan: 'P30D' },
		then: 'archive',
		options: {}
	},
	{
		name: 'Dead advertisements',
		query: 'kind:advertisement folder:Inbox',
		stay: { olderThan: 'P10D' },
		then: 'delete',
		options: { leavesFlagged: true }
	},
	{
		name: 'All newsletters in one folder',
		query: 'kind:advertisement or kind:list',
		stay: {},
		then: 'move',
		options: { folder: 'Newsletters' }
	},
	{ name: 'Berth permits', query: 'folder:"Berth permits"', stay: { newest: 200 }, then: 'archive', options: {} },
	{
		name: 'Notices',
		query: 'kind:notice folder:Inbox',
		stay: { newest: 20, per: 'sender' },
		then: 'archive',
		options: { leavesFlagged: true }
	},
	{ name: 'Automatic notices', query: 'kind:automatic', stay: { olderThan: 'P30D' }, then: 'delete', options: {} },
	{ name: 'MV Terne', query: 'subject:terne', stay: {}, then: 'tag', options: { tag: 'Vessels/MV Terne' } }
];
