import { ATTACHMENT_KINDS, kindBit } from '../../../core/message/kinds.ts';
import { matchExpression, type Query } from '../../../core/search/query.ts';
import { MAIL_KIND_NAMES, MAIL_KINDS } from '../../../core/message/mail-kind.ts';
import type { DueAction } from '../../../core/retention/terms.ts';
import type { MessageOrder } from '../../../core/search/orders.ts';
import type { Choice, Choices, Narrowing } from '../../../core/search/narrowing.ts';
import type { Weight } from '../../../core/weigh/tree.ts';
import { nameKey } from '../../../core/weigh/roles.ts';
import { all, type Condition, type Db, empty, inList, join, raw, row, rows, type Sql, sql } from '../database/index.ts';
import { type Reach, reachCondition } from '../access/index.ts';
import { condition, escapeLike, HELD, WAITS } from '../mail/index.ts';

/** A found message. */
export interface Found {
	id: number;
	/** Number of its message. */
	messageNumber: number;
	contentId: number;
	messageId: string;
	subject: string;
	fromName: string;
	fromAddress: string;
	receivedAt: number | null;
	receivedOn: string | null;
	dateInDoubt: number;
	mailboxId: number;
	mailbox: string;
	folder: string;
	origin: string | null;
	/** Its folder; for archived and binned mail, the one that it came from. */
	homeId: number;
	state: 'live' | 'archived' | 'binned';
	bytes: number;
	attachments: number;
	/** Stored as JSON ({@link StoredAttachment}). */
	files: string;
	seen: number | null;
	flagged: number;
	kept: number;
	paused: number;
	held: number;
	/** Whether its mail server has still to show it as it is here. */
	waits: number;
	/** When it was deleted, and when its disposition falls. */
	binnedOn: string | null;
	dueOn: string | null;
	dueAction: DueAction | null;
	threadId: number | null;
	/** Number of its class, and the code of its series. */
	class: number;
	series: string | null;
}

/** The orders of messages, as SQL. */
const SORTS: Record<MessageOrder, string> = {
	// by rank alone: the index then returns the best first and only a page of items is read; within a page, newer ones
	// come first among equals
	relevance: 'rank',
	newest: 'item.received_on DESC, item.received_at DESC, item.id DESC',
	oldest: 'item.received_on, item.received_at, item.id',
	largest: 'item.bytes DESC, item.id DESC',
	smallest: 'item.bytes, item.id',
	// by the local part first, and subjects without the marks of replying (RFC 5256 section 3, SORT)
	sender: "replace(message.from_address, '@', ' '), item.received_on DESC, item.id DESC",
	'sender-last': "replace(message.from_address, '@', ' ') DESC, item.received_on DESC, item.id DESC",
	subject: 'message.base_subject, item.received_on DESC, item.id DESC',
	'subject-last': 'message.base_subject DESC, item.received_on DESC, item.id DESC',
	state: 'item.state, item.received_on DESC, item.id DESC',
	importance: 'item.importance DESC, item.flagged DESC, item.received_on DESC, item.id DESC',
	attachments: 'item.attachments DESC, item.bytes DESC, item.id DESC',
	// by the first of its tags; mail without one comes last
	tag: `(SELECT min(tag.name_key) FROM item_tag JOIN tag ON tag.id = tag_id WHERE item_id = item.id AND NOT tag.hidden) NULLS LAST,
		item.received_on DESC, item.id DESC`,
	due: 'item.due_on, item.received_on, item.id',
	deleted: 'item.binned_on, item.id'
};

/** The words and filters of a search. */
export interface Search {
	query: Query;
	mailboxId: number | undefined;
	/** Without one: a selection of mailboxes; undefined: all. */
	mailboxIds?: readonly number[] | undefined;
	states: readonly string[];
	/** The reach of the person who searches; undefined: everything. */
	reach?: Reach | undefined;
	narrowing?: Narrowing | undefined;
	/** What another page gathers. */
	gathered?: Condition | undefined;
	/** A thread stands as its newest message found. */
	isFolded?: boolean | undefined;
}

/* The folder of an item as people see it: for archived and binned mail, the one that it came from. */
const HOME = sql`ifnull(item.origin_folder_id, item.folder_id)`;

const isAllLive = (states: readonly string[]) => states.every((state) => state === 'live');

/*
 * For live mail of a folder, asked once of the folder: its index then answers without the items themselves. Other mail is
 * found by the index of its mailbox.
 */
const inMailbox = (mailboxId: number, folderId: number | undefined): Condition =>
	folderId === undefined
		? sql`item.mailbox_id = ${mailboxId}`
		: sql`(SELECT mailbox_id FROM folder WHERE id = ${folderId}) = ${mailboxId}`;

/* A single state is compared, so that the index of the folder gives its order too. */
function inStates([state, ...others]: readonly string[]): Condition {
	if (state !== undefined && others.length === 0) return sql`item.state = ${state}`;
	return sql`item.state IN (SELECT value FROM json_each(${JSON.stringify([state, ...others])}))`;
}

/** Filters as conditions. Live mail is in its own folder, so that the folder index is used. */
function narrowed(
	{ mailbox, folder, who, year, tag, list, kind, file }: Narrowing,
	states: readonly string[]
): Condition[] {
	const home = isAllLive(states) ? sql`item.folder_id` : HOME;
	return [
		...(mailbox === undefined ? [] : [inMailbox(mailbox, isAllLive(states) ? folder : undefined)]),
		...(folder === undefined ? [] : [sql`${home} = ${folder}`]),
		...(who === undefined ? [] : [sql`item.correspondent_id = ${who}`]),
		...(year === undefined
			? []
			: [sql`item.received_on >= ${`${year}-01-01`} AND item.received_on < ${`${Number(year) + 1}-01-01`}`]),
		...(tag === undefined ? [] : [sql`item.id IN (SELECT item_id FROM item_tag WHERE tag_id = ${tag})`]),
		...(list === undefined ? [] : [sql`item.list_id = ${list}`]),
		...(kind === undefined ? [] : [sql`item.mail_kind = ${MAIL_KINDS.indexOf(kind)}`]),
		...(file === undefined
			? []
			: [condition(file === 'any' ? { kind: 'attached' } : { kind: 'attachment-kind', attachment: file })])
	];
}

/*
 * The index ranks by how frequent a word is in all mail, also in mail that a colleague may not see (invariant 20). For them
 * a message ranks by where its own words stand: in the subject, then in names, then elsewhere.
 */
function ownRank(parts: readonly Query[]): Sql {
	const terms = parts.flatMap((part) => {
		const match = matchExpression(part);
		const within = (columns: string) =>
			sql`(words.rowid IN (SELECT rowid FROM words WHERE words MATCH ${`{${columns}} : (${match ?? ''})`}))`;
		return match === undefined ? [] : [sql`2 * ${within('subject')} + ${within('sender recipients copied')}`];
	});
	return terms.length > 0 ? sql`-(${join(terms, ' + ')})` : sql`0`;
}

/* Top-level conditions on words alone become one MATCH, so that their rank counts; the rest is tested row by row. */
function conditions({ query, mailboxId, mailboxIds, states, reach, narrowing = {}, gathered }: Search): {
	/** Whether the index of words is used, so that there is a rank. */
	byWords: boolean;
	/** The rank of a message by its own words alone. */
	ownRank: Sql;
	/** Whether it is all mail of one mailbox in one state. */
	isWhole: boolean;
	from: Sql;
	where: Condition;
} {
	const parts = query.kind === 'and' ? query.parts : [query];
	const matches = parts.map(matchExpression).filter((match) => match !== undefined);
	const tests = parts.filter((part) => matchExpression(part) === undefined).map(condition);
	const reached = reach && reachCondition(reach);
	const where: Condition[] = [
		inStates(states),
		...(matches.length > 0 ? [sql`words MATCH ${matches.join(' AND ')}`] : []),
		...(mailboxId === undefined ? [] : [inMailbox(mailboxId, isAllLive(states) ? narrowing.folder : undefined)]),
		...(mailboxIds === undefined ? [] : [sql`item.mailbox_id IN ${inList(mailboxIds)}`]),
		...(reached ? [reached] : []),
		...narrowed(narrowing, states),
		...(gathered ? [gathered] : []),
		...tests
	];
	return {
		byWords: matches.length > 0,
		ownRank: ownRank(parts),
		isWhole: where.length === 2 && mailboxId !== undefined && states.length === 1,
		from: matches.length > 0 ? sql`words CROSS JOIN item ON item.message_id = words.rowid` : sql`item`,
		where: all(where)
	};
}

/* Found messages that stand for their threads: no newer message of the thread is found. */
function shownWhere(search: Search): Condition {
	const { from, where } = conditions(search);
	if (!search.isFolded) return where;
	return sql`${where} AND NOT EXISTS (
		SELECT 1 FROM (SELECT item.id, item.thread_id, item.received_at FROM ${from} WHERE ${where}) newer
		WHERE newer.thread_id = item.thread_id
			AND (ifnull(newer.received_at, 0), newer.id) > (ifnull(item.received_at, 0), item.id))`;
}

/** A page of found messages. */
export async function findItems(
	db: Db,
	search: Search,
	sort: MessageOrder,
	limit: number,
	offset: number
): Promise<Found[]> {
	const { byWords, from: anywhere, ownRank, isWhole } = conditions(search);
	const where = shownWhere(search);
	const ranked = sort === 'relevance' && byWords;
	const isLimited = search.reach !== undefined && search.reach.mailboxIds !== 'all';
	const nearness = !ranked ? sql`0` : isLimited ? ownRank : sql`round(rank, 2)`;
	const order =
		sort === 'relevance' && !byWords ? SORTS.newest : ranked && isLimited ? `nearness, ${SORTS.newest}` : SORTS[sort];
	// the planner would read the days of all states, and leave most of their mail aside
	const from = isWhole && order.startsWith('item.received_on') ? sql`item INDEXED BY item_by_date` : anywhere;
	// columns to be shown are read for the page alone, not for all that is sorted
	const message = order.includes('message.')
		? sql`JOIN message INDEXED BY message_sort_keys ON message.id = item.message_id`
		: empty;
	// the newest of equals come first: read in that order, nearly all others are left aside when they are met
	const newestFirst =
		order.includes('message.') && !byWords && search.narrowing?.folder !== undefined && isAllLive(search.states)
			? sql`(SELECT item.id, item.message_id, item.flagged, item.received_on FROM ${from} WHERE ${where}
					ORDER BY item.received_on DESC, item.received_at DESC LIMIT -1) item ${message}`
			: undefined;
	return rows<Found>(
		db,
		sql`SELECT item.id, item.message_id AS messageNumber, message.content_id AS contentId, message.message_id AS messageId, message.subject,
			message.from_name AS fromName, message.from_address AS fromAddress, item.received_at AS receivedAt,
			item.received_on AS receivedOn, item.date_in_doubt AS dateInDoubt, item.mailbox_id AS mailboxId, mailbox.name AS mailbox, folder.path AS folder,
			origin.path AS origin, ${HOME} AS homeId, item.state, item.bytes, item.attachments, message.attachments AS files, item.seen, item.flagged,
			item.kept, item.pause_id IS NOT NULL AS paused, ${HELD} AS held, ${WAITS} AS waits,
			item.binned_on AS binnedOn, item.due_on AS dueOn, item.due_action AS dueAction, item.thread_id AS threadId, item.class,
			(SELECT code FROM retention JOIN series ON series.id = series_id WHERE retention.id = item.retention_id) AS series
		 FROM (
			SELECT item.id, row_number() OVER () AS position, nearness FROM (
				SELECT item.id, ${nearness} AS nearness FROM ${newestFirst ?? sql`${from} ${message} WHERE ${where}`} ORDER BY ${raw(order)} LIMIT ${limit} OFFSET ${offset}
			 ) item
		 ) page CROSS JOIN item ON item.id = page.id JOIN message ON message.id = item.message_id
			JOIN mailbox ON mailbox.id = item.mailbox_id JOIN folder ON folder.id = item.folder_id
			LEFT JOIN folder origin ON origin.id = item.origin_folder_id
		 ORDER BY ${ranked ? sql`page.nearness, item.received_on DESC, ` : empty}page.position`
	);
}

/** The stored contents of some items. */
export async function contentsOf(
	db: Db,
	ids: readonly number[]
): Promise<Pick<Found, 'id' | 'contentId' | 'files' | 'messageNumber'>[]> {
	return rows(
		db,
		sql`SELECT item.id, content_id AS contentId, message.attachments AS files, message.id AS messageNumber
		 FROM item JOIN message ON message.id = item.message_id WHERE item.id IN ${inList(ids)}`
	);
}

/** Above this a count says "more than". */
export const COUNTED_AT_MOST = 10_000;

/**
 * The count and bytes of found messages; for more than {@link COUNTED_AT_MOST}, one more than that and their bytes.
 */
export async function weighFound(db: Db, search: Search): Promise<Weight> {
	const { from, where } = conditions(search);
	const found = await row<Weight>(
		db,
		sql`SELECT count(*) AS messages, ifnull(sum(bytes), 0) AS bytes
		 FROM (SELECT item.bytes FROM ${from} WHERE ${where} LIMIT ${COUNTED_AT_MOST + 1})`
	);
	return found ?? { messages: 0, bytes: 0 };
}

/** How many rows the found messages make, folded by thread, counted like them; a message without a thread is a row. */
export async function countShown(db: Db, search: Search): Promise<number> {
	const { from, where } = conditions(search);
	const found = await row<{ n: number }>(
		db,
		sql`SELECT count(*) AS n FROM (SELECT DISTINCT ifnull(item.thread_id, -item.id) FROM ${from} WHERE ${where}
			LIMIT ${COUNTED_AT_MOST + 1})`
	);
	return found?.n ?? 0;
}

/** A found message that stands folded under a newer one of its thread. */
export interface Folded {
	id: number;
	threadId: number;
	state: Found['state'];
	bytes: number;
}

/* How many messages are folded under those of a page. */
const MOST_FOLDED = 10_000;

/** The other found messages of some threads. */
export async function foundInThreads(
	db: Db,
	search: Search,
	shown: readonly { id: number; threadId: number | null }[]
): Promise<Folded[]> {
	const { from, where } = conditions(search);
	const threads = shown.flatMap(({ threadId }) => threadId ?? []);
	return rows<Folded>(
		db,
		sql`SELECT item.id, item.thread_id AS threadId, item.state, item.bytes FROM ${from}
		 WHERE ${where} AND item.thread_id IN ${inList(threads)} AND item.id NOT IN ${inList(shown.map(({ id }) => id))}
		 ORDER BY item.id LIMIT ${MOST_FOLDED}`
	);
}

/** The ids of found messages in order, after a given one. */
export async function foundIdsBehind(db: Db, search: Search, after: number, limit: number): Promise<number[]> {
	const { from, where } = conditions(search);
	const found = await rows<{ id: number }>(
		db,
		sql`SELECT item.id FROM ${from} WHERE ${where} AND item.id > ${after} ORDER BY item.id LIMIT ${limit}`
	);
	return found.map(({ id }) => id);
}

/* Kinds of mail are stored by their numbers. */
function kindNamed({ value, messages }: Choice): Choice {
	const kind = MAIL_KINDS[Number(value)] ?? 'person';
	return { value: kind, name: MAIL_KIND_NAMES[kind], messages };
}

/* How many filters of each kind are shown. */
const CHOICES = 12;

/** The filters of a search with their counts, from the first {@link COUNTED_AT_MOST} found messages. */
export async function choicesIn(db: Db, search: Search): Promise<Choices> {
	const { from, where } = conditions(search);
	const grouped = (of: keyof Choices, value: Sql, name: Sql, joined: Sql, which = sql`1`) =>
		sql`SELECT * FROM (SELECT ${of} AS of, CAST(${value} AS TEXT) AS value, ${name} AS name, count(*) AS messages FROM hit ${joined}
			WHERE ${which} GROUP BY ${value} ORDER BY count(*) DESC, ${name} LIMIT ${CHOICES})`;
	const kinds = ATTACHMENT_KINDS.map(
		(kind) =>
			sql`SELECT 'file' AS of, ${kind} AS value, ${kind} AS name, count(*) AS messages FROM hit WHERE kinds & ${kindBit(kind)}`
	);
	const found = await rows<Choice & { of: keyof Choices }>(
		db,
		sql`WITH hit AS MATERIALIZED (
			SELECT item.id, item.mailbox_id, ${HOME} AS home, item.correspondent_id, item.list_id, item.mail_kind, substr(item.received_on, 1, 4) AS year,
				item.attachments, item.attachment_kinds AS kinds
			FROM ${from} WHERE ${where} LIMIT ${COUNTED_AT_MOST}
		 )
		 ${grouped('mailbox', sql`mailbox_id`, sql`mailbox.name`, sql`JOIN mailbox ON mailbox.id = mailbox_id`)}
		 UNION ALL ${grouped('folder', sql`home`, sql`folder.path || ', ' || mailbox.name`, sql`JOIN folder ON folder.id = home JOIN mailbox ON mailbox.id = folder.mailbox_id`)}
		 UNION ALL ${grouped('who', sql`correspondent_id`, sql`CASE correspondent.name WHEN '' THEN address ELSE correspondent.name END`, sql`JOIN correspondent ON correspondent.id = correspondent_id`)}
		 UNION ALL ${grouped('year', sql`year`, sql`year`, empty, sql`year IS NOT NULL`)}
		 UNION ALL ${grouped('tag', sql`tag.id`, sql`tag.name`, sql`JOIN item_tag ON item_tag.item_id = hit.id JOIN tag ON tag.id = tag_id`, sql`NOT tag.hidden`)}
		 UNION ALL ${grouped('list', sql`list_id`, sql`CASE list.name WHEN '' THEN identifier ELSE list.name END`, sql`JOIN list ON list.id = list_id`)}
		 UNION ALL ${grouped('kind', sql`mail_kind`, sql`mail_kind`, empty)}
		 UNION ALL SELECT 'file', 'any', 'any', count(*) FROM hit WHERE attachments > 0
		 UNION ALL ${join(kinds, ' UNION ALL ')}`
	);
	const choices: Choices = { mailbox: [], folder: [], who: [], year: [], tag: [], list: [], kind: [], file: [] };
	for (const { of, ...choice } of found)
		if (choice.messages > 0) choices[of].push(of === 'kind' ? kindNamed(choice) : choice);
	choices.year.sort((a, b) => (a.value < b.value ? 1 : -1));
	return choices;
}

/* How many messages with a word's beginning are read for suggestions. */
const LOOKED_AT = 400;

/** Senders and subjects among the first messages found, the most frequent first. */
export async function namesFound(
	db: Db,
	search: Search,
	of: 'people' | 'subjects',
	limit: number
): Promise<{ name: string; address: string; messages: number }[]> {
	const { from, where } = conditions(search);
	const [group, name, address] =
		of === 'people'
			? ([sql`message.from_address`, sql`max(message.from_name)`, sql`message.from_address`] as const)
			: ([sql`message.base_subject`, sql`max(message.subject)`, sql`''`] as const);
	return rows(
		db,
		sql`SELECT ${name} AS name, ${address} AS address, count(*) AS messages
		 FROM (SELECT item.message_id FROM ${from} WHERE ${where} LIMIT ${LOOKED_AT}) hit JOIN message ON message.id = hit.message_id
		 WHERE ${group} <> '' GROUP BY ${group} ORDER BY count(*) DESC, name LIMIT ${limit}`
	);
}

/** Tags and folders within reach whose name begins so. */
export async function placesNamed(
	db: Db,
	{ beginning, reach, limit }: { beginning: string; reach: Reach; limit: number }
): Promise<{ of: 'tag' | 'folder'; name: string }[]> {
	const reached = reachCondition(reach) ?? sql`1`;
	const like = `${escapeLike(nameKey(beginning))}%`;
	const folders =
		reach.mailboxIds === 'all'
			? sql`1`
			: sql`(mailbox_id IN (SELECT value FROM json_each(${JSON.stringify(reach.mailboxIds)})) OR id IN (SELECT value FROM json_each(${JSON.stringify(reach.folderIds)})))`;
	return rows(
		db,
		sql`SELECT * FROM (SELECT 'folder' AS of, name FROM folder WHERE tree = 'mailbox' AND removed_at IS NULL AND name_key LIKE ${like} ESCAPE '\\'
			AND ${folders} GROUP BY name_key LIMIT ${limit})
		 UNION ALL SELECT * FROM (SELECT 'tag' AS of, name FROM tag WHERE NOT hidden AND name_key LIKE ${like} ESCAPE '\\' AND EXISTS (
			SELECT 1 FROM item_tag JOIN item ON item.id = item_tag.item_id WHERE tag_id = tag.id AND ${reached}) LIMIT ${limit})`
	);
}

/**
 * Words of the index with the same two first letters and a similar length: those with one letter would be a large
 * part of the index.
 */
export async function wordsLike(db: Db, word: string): Promise<string[]> {
	const [first = '', second = ''] = [...word];
	const beginning = first + second;
	const next = first + String.fromCodePoint((second.codePointAt(0) ?? 0) + 1);
	const length = [...word].length;
	const found = await rows<{ term: string }>(
		db,
		sql`SELECT term FROM word_list WHERE term >= ${beginning} AND term < ${next} AND length(term) BETWEEN ${length - 2} AND ${length + 2}`
	);
	return found.map(({ term }) => term);
}
