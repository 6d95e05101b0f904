import { tagOfKeyword } from '../../../core/sources/operations.ts';
import { type Context } from '../context/index.ts';
import { carryOutAtOnce } from '../docket/index.ts';
import { type Mailbox, listTagNames } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';

/** Keywords that were set or taken off on a server, each with its items: they are tags here. */
export class KeywordChanges {
	readonly #lines = new Map<string, { decision: 'tag' | 'untag'; tag: string; ids: number[] }>();

	/** Notes a keyword of an item. */
	add(decision: 'tag' | 'untag', tag: string, itemId: number): void {
		const key = `${decision} ${tag}`;
		const line = this.#lines.get(key) ?? { decision, tag, ids: [] };
		line.ids.push(itemId);
		this.#lines.set(key, line);
	}

	/** Sets and takes off the tags by dockets. @returns what is wrong with keywords that can be no tags: they stay on the server alone */
	async carryOut(context: Context, mailbox: Mailbox): Promise<string[]> {
		const errors: string[] = [];
		if (this.#lines.size === 0) return errors;
		const names = await listTagNames(context.db);
		for (const { decision, tag: keyword, ids } of this.#lines.values())
			try {
				const tag = tagOfKeyword(keyword, names);
				const scope = { kind: 'items' as const, ids, label: 'as it is on the server' };
				await carryOutAtOnce(context, mailbox, [{ decision, options: { tag }, scope }]);
			} catch (error) {
				if (!(error instanceof Refusal)) throw error;
				errors.push(error.message);
			}
		return errors;
	}
}
