import { createHash } from 'node:crypto';
import { type Action, BEGINNING, detailsText, ledgerText } from '../../../core/ledger/line.ts';
import type { By } from '../../../core/access/roles.ts';
import { type Db, empty, idOf, rows, sql } from '../database/index.ts';

/** A line of the ledger. */
export interface LedgerLine {
	number: number;
	at: string;
	who: string;
	/** Null if no person acted. */
	person: number | null;
	action: Action;
	details: Record<string, unknown>;
	previous: string;
	hash: string;
}

type LedgerRow = Omit<LedgerLine, 'details'> & { details: string };

function hashOf(text: string): string {
	return createHash('sha256').update(text).digest('hex');
}

/**
 * Writes a line, chained to the last, in the transaction of what it records.
 *
 * @returns its number
 */
export async function appendLedger(
	db: Db,
	entry: { at: Date; by: By; action: Action; details: Record<string, unknown> }
): Promise<number> {
	const last = await db('ledger').orderBy('number', 'desc').first('number', 'hash');
	const number = (last?.number ?? 0) + 1;
	const previous = last?.hash ?? BEGINNING;
	const { action, details, by } = entry;
	const at = entry.at.toISOString();
	const line = { at, who: by.name, person: by.personId ?? undefined, action, details };
	const hash = hashOf(ledgerText(number, line, previous));
	await idOf(
		db('ledger').insert({
			number,
			at,
			who: by.name,
			person: by.personId,
			action,
			details: detailsText(details),
			previous,
			hash
		})
	);
	return number;
}

/** Whether anything stands in the ledger. */
export async function hasLedger(db: Db): Promise<boolean> {
	return (await db('ledger').first('number')) !== undefined;
}

function toLine(line: LedgerRow): LedgerLine {
	return { ...line, details: JSON.parse(line.details) as Record<string, unknown> };
}

/** Lines, the newest first. */
export async function listLedger(
	db: Db,
	{ before = Number.MAX_SAFE_INTEGER, limit = 100 } = {}
): Promise<LedgerLine[]> {
	const found = await db('ledger').where('number', '<', before).orderBy('number', 'desc').limit(limit).select();
	return found.map(toLine);
}

/** The result of checking the chain. */
export interface LedgerCheck {
	lines: number;
	ok: boolean;
	/** The first line that breaks the chain. */
	brokenAt: number | undefined;
	/** Hash of the last line: noted elsewhere, it also proves that no line was cut off the end. */
	head: string;
}

/** Recomputes the whole chain. */
export async function checkLedger(db: Db): Promise<LedgerCheck> {
	let lines = 0;
	let previous = BEGINNING;
	for (;;) {
		const found = await db('ledger').where('number', '>', lines).orderBy('number').limit(1000).select();
		for (const stored of found) {
			const fits =
				stored.number === lines + 1 &&
				stored.previous === previous &&
				stored.hash === hashOf(ledgerText(stored.number, fieldsOf(stored), previous));
			if (!fits) return { lines, ok: false, brokenAt: stored.number, head: previous };
			lines = stored.number;
			previous = stored.hash;
		}
		if (found.length === 0) return { lines, ok: true, brokenAt: undefined, head: previous };
	}
}

function fieldsOf(stored: LedgerRow) {
	let details: Record<string, unknown>;
	try {
		details = JSON.parse(stored.details) as Record<string, unknown>;
	} catch {
		details = { broken: stored.details };
	}
	return { at: stored.at, who: stored.who, person: stored.person ?? undefined, action: stored.action, details };
}

/** The hashes of certificates in the ledger, by docket. @param docketId only that of one docket */
export async function certificateHashes(db: Db, docketId?: number): Promise<Map<number, string>> {
	const found = await rows<{ docket: number; sha256: string }>(
		db,
		sql`SELECT details ->> 'docket' AS docket, details ->> 'certificateHash' AS sha256 FROM ledger
		 WHERE action = 'docket-carried-out' AND details ->> 'certificateHash' IS NOT NULL
			${docketId === undefined ? empty : sql`AND details ->> 'docket' = ${docketId}`} ORDER BY number`
	);
	return new Map(found.map(({ docket, sha256 }) => [docket, sha256]));
}
