import type { SenderMark } from '../../../../core/lists/senders.ts';
import { type ListWork, putLineOptions } from '../../docket/index.ts';
import { listsById, putSenderMark, removeSenderMark, senderMarks } from '../lists-store.ts';
import { listIds, listNames } from './lists-of-line.ts';

/** Blocks lists, so that their future mail goes to junk. */
export const block: ListWork = {
	about: 'lists',
	names: listNames,
	async begin(context, { line }) {
		const { db } = context;
		const before = new Map((await senderMarks(db)).map(({ kind, value, verdict }) => [`${kind} ${value}`, verdict]));
		const marks = (await listsById(db, listIds(line))).map(({ identifier }) => ({
			kind: 'list' as const,
			value: identifier,
			before: before.get(`list ${identifier}`)
		}));
		for (const { kind, value } of marks)
			await putSenderMark(db, { verdict: 'block', kind, value }, context.actor.name, context.now());
		await putLineOptions(db, line.id, { ...line.options, marks });
	},
	async undo(context, { options }) {
		const { db } = context;
		for (const { kind, value, before } of options.marks ?? []) {
			const mark = { kind: kind as SenderMark['kind'], value };
			if (before)
				await putSenderMark(
					db,
					{ ...mark, verdict: before as SenderMark['verdict'] },
					context.actor.name,
					context.now()
				);
			else await removeSenderMark(db, mark);
		}
		return options.marks?.length ?? 0;
	}
};
