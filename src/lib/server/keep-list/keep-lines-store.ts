import type { DecisionOptions } from '../../../core/docket/decision.ts';
import type { Decision } from '../../../core/docket/decisions.ts';
import { type Db, insertRows } from '../database/index.ts';

/** A line searched for in future mail. */
export interface KeepLine {
	id: number;
	text: string;
	decision: Decision;
	options: DecisionOptions;
	madeBy: string;
	madeAt: string;
}

/** The lines of a mailbox, by their text. */
export async function listKeepLines(db: Db, mailboxId: number): Promise<KeepLine[]> {
	const found = await db('keep_line')
		.where({ mailbox_id: mailboxId })
		.orderBy('text')
		.orderBy('id')
		.select('id', 'text', 'decision', 'options', { madeBy: 'made_by', madeAt: 'made_at' });
	return found.map((line) => ({ ...line, options: JSON.parse(line.options) as DecisionOptions }));
}

/** Adds lines; an existing line with the same text and decision gets the new options. */
export async function putKeepLines(
	db: Db,
	mailboxId: number,
	{
		lines,
		decision,
		options,
		who,
		at
	}: { lines: readonly string[]; decision: Decision; options: DecisionOptions; who: string; at: string }
): Promise<void> {
	await insertRows(
		db,
		`INSERT INTO keep_line (mailbox_id, text, decision, options, made_by, made_at)`,
		lines.map((text) => [mailboxId, text, decision, JSON.stringify(options), who, at]),
		`ON CONFLICT DO UPDATE SET options = excluded.options, made_by = excluded.made_by, made_at = excluded.made_at`
	);
}

/** Removes a line. @returns whether it existed */
export async function removeKeepLine(db: Db, mailboxId: number, id: number): Promise<boolean> {
	return (await db('keep_line').where({ mailbox_id: mailboxId, id }).delete()) > 0;
}
