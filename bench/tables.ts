import { Dice } from '../demo/random.ts';
import { change, type Db, inTransaction, raw, sql } from '../src/lib/server/database/index.ts';
import { shiftWeights } from '../src/lib/server/mail/index.ts';
import { Vocabulary } from './words.ts';

const FOLDERS = 60;
const PEOPLE = 5_000;
const ORGANISATIONS = 1_200;
const LISTS = 300;
const AT_ONCE = 5_000;

/**
 * Fills the tables of an empty data folder past the import, as most of what is measured begins behind it.
 *
 * @param options.words of text a message, in the index; 0: nothing is put into the index
 * @param options.listed the share of messages that are from one of so many lists
 */
export async function fillTables(
	db: Db,
	items: number,
	{ words, lists = LISTS, listed = 0.3 }: { words: number; lists?: number; listed?: number }
): Promise<Vocabulary> {
	const dice = new Dice(17);
	const vocabulary = new Vocabulary(50_000, dice);
	const series = (count: number) =>
		`WITH RECURSIVE n (i) AS (VALUES (1) UNION ALL SELECT i + 1 FROM n WHERE i < ${count})`;
	await inTransaction(db, async (trx) => {
		await change(
			trx,
			sql`INSERT INTO mailbox (id, name, name_key, quota_bytes, made_at) VALUES (1, 'Office', 'office', 5000000000, '')`
		);
		await change(
			trx,
			sql`${raw(series(FOLDERS))} INSERT INTO folder (id, mailbox_id, tree, name, name_key, path) SELECT i, 1, 'mailbox', 'Folder ' || i, 'folder ' || i, 'Folder ' || i FROM n`
		);
		await change(
			trx,
			sql`${raw(series(ORGANISATIONS))} INSERT INTO organisation SELECT i, 'place' || i || '.example' FROM n`
		);
		await change(
			trx,
			sql`${raw(series(PEOPLE))} INSERT INTO correspondent SELECT i, 'person' || i || '@place' || CAST(i % ${ORGANISATIONS} + 1 AS INTEGER) || '.example', 'Person ' || i, i % ${ORGANISATIONS} + 1 FROM n`
		);
		await change(
			trx,
			sql`${raw(series(lists))} INSERT INTO list (id, identifier, name) SELECT i, 'list' || i || '.example', '' FROM n`
		);
	});
	for (let from = 1; from <= items; from += AT_ONCE)
		await inTransaction(db, async (trx) => {
			const rows = Array.from({ length: Math.min(AT_ONCE, items - from + 1) }, (_, at) => {
				const id = from + at;
				const who = dice.between(1, PEOPLE);
				return {
					id,
					who,
					org: (who % ORGANISATIONS) + 1,
					list: dice.chance(listed) ? dice.between(1, lists) : null,
					folder: dice.between(1, FOLDERS),
					at: 1_500_000_000 + Math.floor((id / items) * 280_000_000),
					bytes: Math.floor(2_000 / (dice.next() + 0.004)),
					kinds: dice.chance(0.3) ? 1 << dice.between(0, 9) : 0,
					seen: dice.chance(0.7) ? 1 : 0,
					text: vocabulary.text(dice, words),
					subject: vocabulary.text(dice, 4).trim()
				};
			});
			const json = JSON.stringify(rows);
			await change(
				trx,
				sql`INSERT INTO content (id, sha256, raw_bytes, stored_bytes, codec, data)
				 SELECT value ->> 'id', cast(printf('%032d', value ->> 'id') AS BLOB), 1, 1, 'identity', x'00' FROM json_each(${json})`
			);
			await change(
				trx,
				sql`INSERT INTO message (id, content_id, message_id, reference_ids, subject, from_name, from_address, recipients, list_id, importance, attachments, base_subject)
				 SELECT value ->> 'id', value ->> 'id', '<' || (value ->> 'id') || '@x>', '[]', value ->> 'subject', '', 'person' || (value ->> 'who') || '@x.example', 'office@skerryline.example', '', (value ->> 'id') % 25 = 0, '[]', upper(value ->> 'subject') FROM json_each(${json})`
			);
			await change(
				trx,
				sql`INSERT INTO item (id, mailbox_id, message_id, state, folder_id, imported_folder_id, received_at, received_on, date_in_doubt,
					bytes, seen, attachments, attachment_kinds, correspondent_id, organisation_id, list_id, importance)
				 SELECT value ->> 'id', 1, value ->> 'id', 'live', value ->> 'folder', value ->> 'folder', value ->> 'at',
					date(value ->> 'at', 'unixepoch'), 0, value ->> 'bytes', value ->> 'seen', (value ->> 'kinds') > 0, value ->> 'kinds',
					value ->> 'who', value ->> 'org', value ->> 'list', (value ->> 'id') % 25 = 0 FROM json_each(${json})`
			);
			if (words > 0)
				await change(
					trx,
					sql`INSERT INTO words (rowid, subject, sender, recipients, copied, text, quoted, files)
					 SELECT value ->> 'id', value ->> 'subject', 'person' || (value ->> 'who') || ' place', 'office skerryline', '', value ->> 'text', '', '' FROM json_each(${json})`
				);
		});
	await inTransaction(db, (trx) =>
		shiftWeights(trx, {
			from: sql`item`,
			before: undefined,
			after: { state: sql`item.state`, folder: sql`item.folder_id` }
		})
	);
	await change(db, sql`ANALYZE`);
	return vocabulary;
}
