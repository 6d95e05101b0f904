import { type MarkKind, type Verdict } from '../../../core/lists/senders.ts';
import { showCount, showMessages } from '../../../core/weigh/units.ts';
import { listSenders, markSender, tryBlocking } from '$lib/server/lists/index.ts';
import { changing, command, group } from '../../command.ts';

/* `senders`: trusted and blocked senders, in all mailboxes. */
const senders = group('senders', 'trust and block addresses, domains, lists and top-level domains');

command<object>(
	'list',
	'list who is trusted and blocked',
	(c) => c,
	async (context) => {
		const marks = await listSenders(context);
		return {
			result: {
				senders: marks.map(({ verdict, kind, value, madeBy, madeAt }) => ({ verdict, kind, value, madeBy, madeAt }))
			},
			lines: [`${showCount(marks.length)} senders.`, ...marks.map(({ verdict, words }) => `  ${verdict}: ${words}`)]
		};
	},
	senders
);

const DONE: Record<Verdict | 'neither', string> = {
	trust: 'trusted',
	block: 'blocked',
	neither: 'neither trusted nor blocked'
};

function mark(word: Verdict | 'neither', description: string): void {
	changing<{ list?: boolean; confirm?: string }>(
		`${word} <sender...>`,
		description,
		(c) => {
			const options = c.option('--list', 'they are identifiers of lists');
			return word === 'block'
				? options.option('--confirm <sender>', 'repeat the sender, to block an address of the office')
				: options;
		},
		async (context, { list, confirm }, ...names) => {
			const kind: MarkKind | undefined = list ? 'list' : undefined;
			const touched: string[] = [];
			for (const sender of names) {
				if (word === 'block') {
					const { senders, messages } = await tryBlocking(context, { sender, kind });
					touched.push(`${showCount(senders)} senders, ${showMessages(messages)} in the last 12 months`);
				}
				await markSender(context, { sender, kind, confirm, verdict: word === 'neither' ? undefined : word });
			}
			return {
				result: { [DONE[word]]: names },
				lines: names.map((name, at) => `${name} is ${DONE[word]} from now on${touched[at] ? ` (${touched[at]})` : ''}.`)
			};
		},
		senders
	);
}

mark('trust', 'trust senders: a@b.example, b.example, .example');
mark('block', 'block senders: their mail to come goes to junk');
mark('neither', 'remove senders from the trusted and blocked ones');
