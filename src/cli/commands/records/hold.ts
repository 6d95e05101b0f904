import { showBytes, showMessages } from '../../../core/weigh/units.ts';
import { type HoldView, type HoldInput, releaseHold, listedHolds, placeHold } from '$lib/server/retention/index.ts';
import { changing, command, group } from '../../command.ts';

/* `hold`: legal holds. They forbid deleting and destroying. */
const holds = group('hold', 'place, release and list holds: what they cover cannot be deleted');

const shown = ({ id, name, because, from, sentence, messages, bytes, placedOn, placedBy, ...hold }: HoldView) => ({
	id,
	name,
	because,
	from,
	what: sentence,
	messages,
	bytes,
	placedOn,
	placedBy,
	releasedOn: hold.releasedOn,
	releasedBy: hold.releasedBy,
	releasedBecause: hold.releasedBecause
});
const asLine = ({ name, sentence, messages, bytes, releasedOn }: HoldView) =>
	`${name}${releasedOn ? `, released on ${releasedOn}` : `: ${showMessages(messages)} (${showBytes(bytes)})`}. ${sentence}`;

changing<Omit<HoldInput, 'name'>>(
	'add <name>',
	'place a hold on all mail that meets every given condition',
	(c) =>
		c
			.requiredOption('--because <reason>', 'why')
			.requiredOption('--from <who>', 'who asked for it')
			.option('--mailbox <name>', 'in one mailbox (without: all)')
			.option('--folder <path>', 'a folder of it, with those below')
			.option('--correspondent <address>', 'written by or to an address, or a domain')
			.option('--tag <name>', 'tagged so')
			.option('--since <date>', 'received on that day or later')
			.option('--before <date>', 'received before that day')
			.option('--query <query>', 'found by a search'),
	async (context, scope, name = '') => {
		const placed = await placeHold(context, { ...scope, name });
		return { result: shown(placed), lines: [asLine(placed)] };
	},
	holds
);

changing<{ because: string }>(
	'release <name>',
	'release a hold; mail under another hold stays held',
	(c) => c.requiredOption('--because <reason>', 'why'),
	async (context, { because }, name = '') => {
		const { messages, due } = await releaseHold(context, { name, because });
		return {
			result: { name, messages, due },
			lines: [
				`${name} is released: ${showMessages(messages)} are no longer under it, ${showMessages(due)} of them due to be destroyed now.`
			]
		};
	},
	holds
);

command<{ released?: boolean }>(
	'list',
	'list holds with what they cover',
	(c) => c.option('--released', 'released ones as well'),
	async (context, { released = false }) => {
		const found = await listedHolds(context, { released });
		return { result: { holds: found.map(shown) }, lines: found.length > 0 ? found.map(asLine) : ['Nothing is held.'] };
	},
	holds
);
