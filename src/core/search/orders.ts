/** The orders of a sheet of messages. */
export const MESSAGE_ORDERS = [
	'relevance',
	'newest',
	'oldest',
	'largest',
	'smallest',
	'sender',
	'sender-last',
	'subject',
	'subject-last',
	'state',
	'importance',
	'attachments',
	'tag',
	'due',
	'deleted'
] as const;
export type MessageOrder = (typeof MESSAGE_ORDERS)[number];

/** The headings of a sheet of messages, each with the orders that clicking it cycles through. */
export const MESSAGE_HEADINGS = {
	received: ['newest', 'oldest'],
	from: ['sender', 'sender-last'],
	subject: ['subject', 'subject-last'],
	size: ['largest', 'smallest'],
	state: ['state'],
	importance: ['importance'],
	attachments: ['attachments'],
	tag: ['tag'],
	due: ['due'],
	deleted: ['deleted']
} as const satisfies Record<string, readonly MessageOrder[]>;
