import type { Knex } from 'knex';

/** Runs the statements of a migration one by one. */
export async function run(knex: Knex, statements: string[]): Promise<void> {
	for (const statement of statements) await knex.raw(statement);
}

/** Migrations only go forward: going back could lose a user's data. */
export async function down(): Promise<void> {
	throw new Error('Migrations go forward only; restore a backup instead');
}
