import type { Weight } from '../../../core/weigh/tree.ts';
import type { Db } from '../database/open.ts';
import { change, rows } from './rows.ts';

/* The month in which an item counts; empty where its date is in doubt. */
const MONTH = `CASE WHEN item.date_in_doubt = 1 OR item.received_on IS NULL THEN '' ELSE substr(item.received_on, 1, 7) END`;

/** Adds or takes away: a SELECT of items with the state and folder that they count under, and +1 or -1. */
export interface WeightShift {
	sign: 1 | -1;
	/** SQL of the state and of the folder. */
	state: string;
	folder: string;
	/** SQL behind FROM; `item` has to be among it. */
	from: string;
	bindings: readonly unknown[];
}

/**
 * Changes the summaries by sets of items; belongs into the transaction that changes the items.
 */
export async function shiftWeights(db: Db, shifts: readonly WeightShift[]): Promise<void> {
	for (const { sign, state, folder, from, bindings } of shifts) {
		await change(
			db,
			`INSERT INTO weight_by_month (mailbox_id, state, folder_id, month, messages, bytes)
			 SELECT item.mailbox_id, ${state}, ${folder}, ${MONTH}, ${sign} * count(*), ${sign} * sum(item.bytes)
			 FROM ${from} GROUP BY 1, 2, 3, 4
			 ON CONFLICT DO UPDATE SET messages = messages + excluded.messages, bytes = bytes + excluded.bytes`,
			bindings
		);
		await change(
			db,
			`INSERT INTO weight_by_organisation (mailbox_id, state, organisation_id, messages, bytes)
			 SELECT item.mailbox_id, ${state}, item.organisation_id, ${sign} * count(*), ${sign} * sum(item.bytes)
			 FROM ${from} GROUP BY 1, 2, 3
			 ON CONFLICT DO UPDATE SET messages = messages + excluded.messages, bytes = bytes + excluded.bytes`,
			bindings
		);
	}
	await change(db, `DELETE FROM weight_by_month WHERE messages = 0`);
	await change(db, `DELETE FROM weight_by_organisation WHERE messages = 0`);
}

/** A weight under a name. */
export interface NamedWeight extends Weight {
	key: string;
}

/* Invariant 2: what counts against the quota. */
const QUOTA_STATES = `('live', 'binned')`;

/** What each folder itself holds of live and binned mail. */
export async function weightByFolder(db: Db, mailboxId: number, states = QUOTA_STATES): Promise<Map<number, Weight>> {
	const found = await rows<Weight & { folderId: number }>(
		db,
		`SELECT folder_id AS folderId, sum(messages) AS messages, sum(bytes) AS bytes FROM weight_by_month
		 WHERE mailbox_id = ? AND state IN ${states} GROUP BY folder_id`,
		[mailboxId]
	);
	return new Map(found.map(({ folderId, messages, bytes }) => [folderId, { messages, bytes }]));
}

/** Live and binned mail by the year in which it was received, oldest first; an empty key: dates in doubt. */
export async function weightByYear(db: Db, mailboxId: number): Promise<NamedWeight[]> {
	return rows<NamedWeight>(
		db,
		`SELECT substr(month, 1, 4) AS key, sum(messages) AS messages, sum(bytes) AS bytes FROM weight_by_month
		 WHERE mailbox_id = ? AND state IN ${QUOTA_STATES} GROUP BY 1 ORDER BY 1`,
		[mailboxId]
	);
}

/** Live and binned mail by organisation, the heaviest first; an empty key: no address. */
export async function weightByOrganisation(db: Db, mailboxId: number, limit: number): Promise<NamedWeight[]> {
	return rows<NamedWeight>(
		db,
		`SELECT organisation.domain AS key, sum(messages) AS messages, sum(bytes) AS bytes
		 FROM weight_by_organisation JOIN organisation ON organisation.id = organisation_id
		 WHERE mailbox_id = ? AND state IN ${QUOTA_STATES} GROUP BY organisation.id ORDER BY bytes DESC, key LIMIT ?`,
		[mailboxId, limit]
	);
}

/** What a mailbox holds in each state. */
export async function weightByState(db: Db): Promise<(Weight & { mailboxId: number; state: string })[]> {
	return rows(
		db,
		`SELECT mailbox_id AS mailboxId, state, sum(messages) AS messages, sum(bytes) AS bytes
		 FROM weight_by_month GROUP BY mailbox_id, state`
	);
}

/** Live mail received before a month's first day, by top of the folder tree not known: exact from the summary. */
export async function liveBeforeMonth(db: Db, mailboxId: number, month: string): Promise<Weight> {
	const [found] = await rows<Weight>(
		db,
		`SELECT ifnull(sum(messages), 0) AS messages, ifnull(sum(bytes), 0) AS bytes FROM weight_by_month
		 WHERE mailbox_id = ? AND state = 'live' AND month <> '' AND month < ?`,
		[mailboxId, month]
	);
	return found ?? { messages: 0, bytes: 0 };
}

/**
 * Computes the summaries again from the items and compares.
 *
 * @returns how many of their rows differ
 */
export async function compareWeights(db: Db): Promise<number> {
	const [found] = await rows<{ differing: number }>(
		db,
		`WITH
		 month_now AS (SELECT item.mailbox_id, item.state, item.folder_id, ${MONTH} AS month, count(*) AS messages, sum(item.bytes) AS bytes
			FROM item WHERE item.state <> 'destroyed' GROUP BY 1, 2, 3, 4),
		 organisation_now AS (SELECT item.mailbox_id, item.state, item.organisation_id, count(*) AS messages, sum(item.bytes) AS bytes
			FROM item WHERE item.state <> 'destroyed' GROUP BY 1, 2, 3)
		 SELECT
			(SELECT count(*) FROM (SELECT * FROM month_now EXCEPT SELECT * FROM weight_by_month)) +
			(SELECT count(*) FROM (SELECT * FROM weight_by_month EXCEPT SELECT * FROM month_now)) +
			(SELECT count(*) FROM (SELECT * FROM organisation_now EXCEPT SELECT * FROM weight_by_organisation)) +
			(SELECT count(*) FROM (SELECT * FROM weight_by_organisation EXCEPT SELECT * FROM organisation_now)) AS differing`
	);
	return found?.differing ?? 0;
}
