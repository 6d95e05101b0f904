import { change, type Db, idOf, row, rows, sql } from '../database/index.ts';
import { HELD } from '../mail/index.ts';

/** The kinds of requests: restoring messages, more access, keeping messages of one's own. */
type Wish = 'restore' | 'reach' | 'keep';
type RequestState = 'open' | 'granted' | 'in-part' | 'declined';

/** A colleague's request and its answer. */
export interface Request {
	id: number;
	personId: number;
	person: string;
	mailboxId: number;
	mailbox: string;
	wish: Wish;
	/** The path of the folder; where there is none of that name, the name as it was asked for. */
	folder: string | null;
	/** The name of the folder as it was asked for. */
	folderName: string | null;
	because: string;
	madeAt: string;
	state: RequestState;
	/** The administrator's words. */
	word: string;
	/** How many messages were restored. */
	restored: number;
	answeredAt: string | null;
	answeredBy: string | null;
	noticedAt: string | null;
	/** How many messages it names, including those destroyed since. */
	messages: number;
}

const REQUEST = sql`SELECT request.id, person_id AS personId, person.name AS person, request.mailbox_id AS mailboxId,
	mailbox.name AS mailbox, wish, ifnull(folder.path, folder_name) AS folder, folder_name AS folderName, because, request.made_at AS madeAt, request.state, word, restored,
	answered_at AS answeredAt, answered_by AS answeredBy, noticed_at AS noticedAt,
	(SELECT count(*) FROM request_item WHERE request_id = request.id) AS messages
 FROM request JOIN person ON person.id = person_id JOIN mailbox ON mailbox.id = request.mailbox_id
	LEFT JOIN folder ON folder.id = request.folder_id`;

/** Adds a request. @returns its number */
export async function addRequest(
	db: Db,
	request: Pick<Request, 'personId' | 'mailboxId' | 'wish' | 'because' | 'madeAt'> & {
		folderId: number | null;
		folderName: string | null;
		ids: readonly number[];
	}
): Promise<number> {
	const id = await idOf(
		db('request').insert({
			person_id: request.personId,
			mailbox_id: request.mailboxId,
			wish: request.wish,
			folder_id: request.folderId,
			folder_name: request.folderName,
			because: request.because,
			made_at: request.madeAt,
			state: 'open'
		})
	);
	await change(
		db,
		sql`INSERT INTO request_item (request_id, item_id) SELECT ${id}, value FROM json_each(${JSON.stringify([...new Set(request.ids)])})`
	);
	return id;
}

/** The request of that number. */
export async function getRequest(db: Db, id: number): Promise<Request | undefined> {
	return row<Request>(db, sql`${REQUEST} WHERE request.id = ${id}`);
}

/** Open requests, the oldest first; or answered ones, the latest first. */
export async function listRequests(db: Db, which: 'open' | 'answered', limit: number): Promise<Request[]> {
	return rows<Request>(
		db,
		which === 'open'
			? sql`${REQUEST} WHERE request.state = 'open' ORDER BY request.id LIMIT ${limit}`
			: sql`${REQUEST} WHERE request.state <> 'open' ORDER BY answered_at DESC LIMIT ${limit}`
	);
}

/** The requests of a person, the latest first. */
export async function requestsOf(db: Db, personId: number, limit: number): Promise<Request[]> {
	return rows<Request>(db, sql`${REQUEST} WHERE person_id = ${personId} ORDER BY request.id DESC LIMIT ${limit}`);
}

/** How many requests are open. */
export async function countOpenRequests(db: Db): Promise<number> {
	return (await row<{ n: number }>(db, sql`SELECT count(*) AS n FROM request WHERE state = 'open'`))?.n ?? 0;
}

/** A message of a request. */
export interface RequestItem {
	itemId: number;
	/** Null, as all that follows, if it was destroyed. */
	subject: string | null;
	fromName: string | null;
	fromAddress: string | null;
	receivedOn: string | null;
	state: string | null;
	folder: string | null;
	isHeld: number;
}

/** The messages of a request. */
export async function requestItems(db: Db, requestId: number, limit: number): Promise<RequestItem[]> {
	return rows<RequestItem>(
		db,
		sql`SELECT request_item.item_id AS itemId, subject, from_name AS fromName, from_address AS fromAddress,
			received_on AS receivedOn, item.state, ifnull(origin.path, folder.path) AS folder, ifnull(${HELD}, 0) AS isHeld
		 FROM request_item LEFT JOIN item ON item.id = request_item.item_id LEFT JOIN message ON message.id = item.message_id
			LEFT JOIN folder ON folder.id = item.folder_id LEFT JOIN folder origin ON origin.id = item.origin_folder_id
		 WHERE request_id = ${requestId} ORDER BY received_on, request_item.item_id LIMIT ${limit}`
	);
}

/** Answers a request. */
export async function putAnswer(
	db: Db,
	id: number,
	answer: Pick<Request, 'state' | 'word' | 'restored' | 'answeredAt' | 'answeredBy'>
): Promise<void> {
	await db('request').where({ id }).update({
		state: answer.state,
		word: answer.word,
		restored: answer.restored,
		answered_at: answer.answeredAt,
		answered_by: answer.answeredBy
	});
}

/** How many answers a person has not read. */
export async function countUnseenAnswers(db: Db, personId: number): Promise<number> {
	const found = await row<{ n: number }>(
		db,
		sql`SELECT count(*) AS n FROM request WHERE person_id = ${personId} AND state <> 'open' AND noticed_at IS NULL`
	);
	return found?.n ?? 0;
}

/** Records that a person has read the answers to their requests. */
export async function noticeAnswersOf(db: Db, personId: number, at: string): Promise<void> {
	await db('request')
		.where({ person_id: personId })
		.whereNot('state', 'open')
		.whereNull('noticed_at')
		.update({ noticed_at: at });
}

/** A saved search of a person. */
export interface SavedSearch {
	id: number;
	name: string;
	/** The query string of its address. */
	question: string;
}

/** The saved searches of a person. */
export async function savedSearches(db: Db, personId: number): Promise<SavedSearch[]> {
	return rows(
		db,
		sql`SELECT id, name, question FROM saved_search WHERE person_id = ${personId} ORDER BY name COLLATE NOCASE`
	);
}

/** Saves a search; one of the same name is replaced. */
export async function putSavedSearch(db: Db, personId: number, name: string, question: string): Promise<void> {
	await db('saved_search')
		.insert({ person_id: personId, name, question })
		.onConflict(['person_id', 'name'])
		.merge(['question']);
}

/** Removes a saved search. */
export async function removeSavedSearch(db: Db, personId: number, id: number): Promise<void> {
	await db('saved_search').where({ person_id: personId, id }).delete();
}
