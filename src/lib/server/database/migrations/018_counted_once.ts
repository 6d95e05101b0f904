import type { Knex } from 'knex';
import { run } from './forward.ts';

export { down } from './forward.ts';

/*
 * Several lines of one docket may change the same message: each line's changes are recorded, so that it counts once.
 */
const statements = [
	`ALTER TABLE docket_item ADD COLUMN done INTEGER NOT NULL DEFAULT 0`,
	`CREATE TEMP TABLE several AS SELECT docket_id AS id FROM docket_line JOIN docket ON docket.id = docket_id
	 WHERE docket.state IN ('carrying-out', 'carried-out') GROUP BY docket_id HAVING count(*) > 1`,
	`UPDATE docket_item SET done = 1 FROM docket_line JOIN docket ON docket.id = docket_line.docket_id
	 WHERE docket_line.id = docket_item.line_id AND docket.id IN (SELECT id FROM temp.several) AND (docket.state = 'carried-out'
		OR docket_line.position < docket.progress_position
		OR (docket_line.position = docket.progress_position AND docket_item.item_id <= docket.progress_item_id))`,
	// the changed messages are known only of dockets that left none
	`UPDATE docket SET (messages, bytes) = (
		SELECT count(*), ifnull(sum(item.bytes), 0) FROM (SELECT DISTINCT item_id FROM docket_item JOIN docket_line ON docket_line.id = line_id
			WHERE docket_line.docket_id = docket.id AND done = 1) changed JOIN item ON item.id = changed.item_id)
	 WHERE id IN (SELECT id FROM temp.several) AND state = 'carried-out' AND NOT EXISTS (
		SELECT 1 FROM docket_line WHERE docket_id = docket.id AND (decision IN ('dispose', 'destroy') OR done_messages <> messages))`,
	`DROP TABLE temp.several`
];

export async function up(knex: Knex): Promise<void> {
	await run(knex, statements);
}
