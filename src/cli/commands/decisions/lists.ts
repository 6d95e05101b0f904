import { WAY_NAMES } from '../../../core/lists/ways.ts';
import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';
import { carryOut, tryDecision } from '$lib/server/docket/index.ts';
import type { Context } from '$lib/server/context/index.ts';
import {
	type BackIssues,
	leaveLists,
	listIds,
	listLists,
	type ListRow,
	listsLines,
	listsWaiting,
	mailboxesGetting,
	prepareLists
} from '$lib/server/lists/index.ts';
import { lotItems } from '$lib/server/lots/index.ts';
import { requireMailbox } from '$lib/server/mail/index.ts';
import { askedWords } from '$lib/asked-words.ts';
import { command, oneOf, type Outcome, readNumber, wrongWords } from '../../command.ts';
import { table } from '../../terminal.ts';

const ITEMS_SHOWN = 1_000;

async function withItems(context: Context, mailboxId: number, list: ListRow) {
	const { items } = await lotItems(context, { mailboxId, by: 'list', key: String(list.id), limit: ITEMS_SHOWN });
	return items.map(({ id, subject, receivedOn, bytes }) => ({ id, subject, receivedOn, bytes }));
}

command<{ mailbox: string; newest?: string; items?: boolean }>(
	'lists',
	'list who writes to many: mailing lists, newsletters, notices',
	(c) =>
		c
			.requiredOption('--mailbox <name>', 'mailbox')
			.option('--newest <n>', 'only those among so many of the newest messages')
			.option('--items', 'with their messages in folders'),
	async (context, { mailbox: name, newest, items }) => {
		const mailbox = await requireMailbox(context, name);
		const { lists } = await listLists(context, {
			mailboxId: mailbox.id,
			newest: newest === undefined ? undefined : readNumber('--newest', newest, 1_000_000),
			limit: 1_000_000
		});
		const shown = [];
		for (const list of lists) {
			const { id, identifier, name, organisation, messages, bytes, ways, known, standing, verdict, inDigest } = list;
			shown.push({
				id,
				listId: identifier,
				name,
				organisation,
				messages,
				inNewest: newest === undefined ? undefined : list.inNewest,
				bytes,
				months: list.months,
				read: list.read,
				lastRead: list.lastRead ?? null,
				first: list.first ?? null,
				last: list.last ?? null,
				mailboxes: list.mailboxes,
				ways,
				known,
				standing,
				verdict,
				inDigest,
				...(items ? { items: await withItems(context, mailbox.id, list) } : {})
			});
		}
		return {
			result: { lists: shown },
			lines: [
				`${showCount(lists.length)} ${lists.length === 1 ? 'list' : 'lists'}.`,
				...table(
					lists.map((list) => [
						`${list.id}  ${list.name.slice(0, 40)}`,
						list.known ? 'known' : 'stranger',
						showMessages(list.messages),
						showBytes(list.bytes),
						list.standingSentence || (list.ways[0] ? WAY_NAMES[list.ways[0]] : 'does not say how')
					])
				)
			]
		};
	}
);

const BACK_ISSUES: Record<string, BackIssues> = {
	leave: 'leave',
	archive: 'archive',
	delete: 'delete',
	keep: 'keep-newest'
};

interface UnsubscribeOptions {
	mailbox?: string;
	backIssues: string;
	keepNewest: string;
	dryRun?: boolean;
}

command<UnsubscribeOptions>(
	'unsubscribe [list...]',
	'unsubscribe from lists, named by number or identifier, and decide on their back issues; without a list, ask those that wait',
	(c) =>
		c
			.option('--mailbox <name>', 'in one mailbox (without: in all that get them)')
			.option('--back-issues <what>', 'archive, delete, or keep the newest and delete the rest', 'leave')
			.option('--keep-newest <n>', 'so many of each stay', '1')
			.option('--dry-run', 'only show what it would do: nobody is asked'),
	async (context, { mailbox, backIssues, keepNewest, dryRun }, ...names) => {
		if (names.length === 0) return askWaiting(context, dryRun ?? false);
		const ids = await listIds(context, names);
		const issues = BACK_ISSUES[oneOf('--back-issues', Object.keys(BACK_ISSUES), backIssues)] as BackIssues;
		const mailboxes =
			mailbox === undefined ? await mailboxesGetting(context, ids) : [await requireMailbox(context, mailbox)];
		if (mailboxes.length === 0) throw wrongWords('no mailbox gets these lists');
		const dockets = [];
		const lines: string[] = [];
		for (const one of mailboxes) {
			const wish = {
				mailboxId: one.id,
				ids: await idsIn(context, one.id, ids),
				decision: 'unsubscribe' as const,
				backIssues: issues,
				keepNewest: readNumber('--keep-newest', keepNewest, 1_000_000)
			};
			if (dryRun) {
				let messages = 0;
				let lists = 0;
				for (const line of await listsLines(context, wish)) {
					if (line.scope.kind === 'lists') lists += line.scope.ids.length;
					else messages += (await tryDecision(context, one, line)).messages;
				}
				dockets.push({ mailbox: one.name, docket: null, lists, messages });
				lines.push(`${one.name}: would ask ${showCount(lists)} lists to stop, and change ${showMessages(messages)}.`);
				continue;
			}
			const docket = await prepareLists(context, wish);
			const outcome = await carryOut(context, { id: docket.id, expected: docket });
			dockets.push({ mailbox: one.name, docket: docket.id, lists: docket.onLists, messages: outcome.messages });
			lines.push(`${one.name}, docket ${docket.id}: ${docket.sentences.join(' ')}`);
		}
		if (dryRun)
			return {
				result: { dockets, asked: null, dryRun },
				lines: [...lines, 'Nobody was asked. Nothing was done.']
			};
		const asked = { confirmed: 0, asked: 0, failed: 0, unknown: 0, waiting: 0 };
		for (const { docket } of dockets) {
			const one = await leaveLists(context, { docketId: docket as number });
			for (const state of Object.keys(asked) as (keyof typeof asked)[]) asked[state] += one[state];
		}
		return {
			result: { dockets, asked, dryRun: false },
			lines: [...lines, `Lists: ${askedWords(asked)}.`],
			ok: asked.failed === 0
		};
	}
);

/* Requests that were stopped or interrupted go on. */
async function askWaiting(context: Context, dryRun: boolean): Promise<Outcome> {
	if (dryRun) {
		const waiting = await listsWaiting(context);
		return {
			result: { dockets: [], asked: null, waiting, dryRun },
			lines: [`Would ask ${showCount(waiting)} ${waiting === 1 ? 'list' : 'lists'} to stop. Nobody was asked.`]
		};
	}
	const asked = await leaveLists(context, {});
	return {
		result: { dockets: [], asked, dryRun },
		lines: [`Lists: ${askedWords(asked)}.`],
		ok: asked.failed === 0
	};
}

async function idsIn(context: Context, mailboxId: number, ids: readonly number[]): Promise<number[]> {
	const { lists } = await listLists(context, { mailboxId, limit: 1_000_000 });
	const there = new Set(lists.map(({ id }) => id));
	return ids.filter((id) => there.has(id));
}
