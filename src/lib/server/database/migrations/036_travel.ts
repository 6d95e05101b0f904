import type { Knex } from 'knex';
import { isOfJourney } from '../../../../core/message/mail-kind.ts';

export { down } from './forward.ts';

/* Numbers of the kinds of mail as they were stored then. */
const NOTICE = 3;
const TRAVEL = 5;
const AT_ONCE = 5_000;

interface Notice {
	id: number;
	subject: string;
}

/* Journeys become a kind of their own: what was a notice is told apart by its subject, as new mail is. */
export async function up(knex: Knex): Promise<void> {
	for (let after = 0; ;) {
		const notices = (await knex('item')
			.join('message', 'message.id', 'item.message_id')
			.where('item.mail_kind', NOTICE)
			.where('item.id', '>', after)
			.orderBy('item.id')
			.limit(AT_ONCE)
			.select('item.id', 'message.subject')) as Notice[];
		const last = notices.at(-1);
		if (!last) return;
		after = last.id;
		const journeys = notices.filter(({ subject }) => isOfJourney(subject)).map(({ id }) => id);
		if (journeys.length > 0)
			await knex.raw('UPDATE item SET mail_kind = ? WHERE id IN (SELECT value FROM json_each(?))', [
				TRAVEL,
				JSON.stringify(journeys)
			]);
	}
}
