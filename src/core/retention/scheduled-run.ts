import { type Decision, ruleOf } from '../docket/decisions.ts';

/** The decisions of a scheduled run, by what is due. */
export const RUN_DECISIONS = { archive: 'archive', destroy: 'dispose' } as const satisfies Record<string, Decision>;

const listed = (words: readonly string[]) =>
	words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`;
const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

function leftBy(decision: Decision): string[] {
	const { isBarredByHold, protections } = ruleOf(decision);
	return [...(isBarredByHold ? ['held'] : []), ...protections];
}

/** The mail that a scheduled run leaves, as a sentence: by the same rules as its dockets (invariant 16). */
export function runLeavesSentence(): string {
	const notArchived = leftBy(RUN_DECISIONS.archive);
	const onlyArchived = leftBy(RUN_DECISIONS.destroy).filter((name) => !notArchived.includes(name));
	return [
		...(notArchived.length > 0 ? [`${capital(listed(notArchived))} mail is not archived.`] : []),
		...(onlyArchived.length > 0 ? [`${capital(listed(onlyArchived))} mail is archived, but not destroyed.`] : []),
		'Mail whose date is in doubt stays, and mail restored within the last 30 days is not archived again.'
	].join(' ');
}
