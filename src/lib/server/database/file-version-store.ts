import type { Db } from './open.ts';
import { row } from './rows.ts';
import { sql } from './sql.ts';

/** A number that changes with every change of the file, so that cached counts can be checked. */
export async function fileVersion(db: Db): Promise<string> {
	const found = await row<{ others: number; own: number }>(
		db,
		sql`SELECT (SELECT data_version FROM pragma_data_version) AS others, total_changes() AS own`
	);
	return `${found?.others} ${found?.own}`;
}
