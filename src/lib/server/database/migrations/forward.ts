import type { Knex } from 'knex';

/** Runs the statements of a migration one by one. */
export async function run(knex: Knex, statements: string[]): Promise<void> {
	for (const statement of statements) await knex.raw(statement);
}

/** Migrations go forward only: going back could lose what a user has. */
export async function down(): Promise<void> {
	throw new Error('Migrations go forward only; restore a backup instead');
}
