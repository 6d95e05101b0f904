import type { ClassFields } from '../../../core/retention/classes.ts';
import { readBytes, showBytes, showCount } from '../../../core/weigh/units.ts';
import { discardClass, setRetention, showClasses, triedWords, tryRetention } from '$lib/server/retention/index.ts';
import { recalculateDue } from '$lib/server/standing/index.ts';
import { changing, command, group, wrongWords } from '../../command.ts';

/* `class`: the classes of the office. */
const classes = group('class', 'show and change the classes of mail');

command(
	'list',
	'list the classes: word, letter, period, quota, whether protected as records',
	(c) => c,
	async (context) => {
		const found = await showClasses(context);
		return {
			result: found.map(({ word, name, letter, isProtected, quotaBytes, period, series, places, messages }) => ({
				class: word,
				name,
				letter,
				isProtected,
				quotaBytes,
				period,
				series,
				places,
				messages
			})),
			lines: found.map(
				({ word, name, letter, isProtected, quotaBytes, period, messages }) =>
					`${word}: ${letter}, ${name}; ${period || 'no period'}; ${
						quotaBytes === undefined ? 'no quota' : `up to ${showBytes(quotaBytes)} in a mailbox`
					}${isProtected ? '; protected as records' : ''}${messages > 0 ? `; ${showCount(messages)} messages` : ''}`
			)
		};
	},
	classes
);

changing<{ name?: string; letter?: string; protected?: boolean; quota?: string; because?: string }>(
	'set <class>',
	'change a class, or add one: give its name where its word is not known yet',
	(c) =>
		c
			.option('--name <name>', 'its name; a new class has the name that is given first')
			.option('--letter <letter>', 'one or two letters by which it is known in the sheets')
			.option('--protected', 'its mail is protected as records')
			.option('--no-protected', 'it is not')
			.option('--quota <size>', 'what its mail may weigh in each mailbox, such as 500MB; "none": no quota')
			.option('--because <text>', 'why; needed where protection changes'),
	async (context, options, word = '') => {
		const known = (await showClasses(context)).find((of) => of.word === word);
		const quota = options.quota === undefined || options.quota === 'none' ? undefined : readBytes(options.quota);
		if (options.quota !== undefined && options.quota !== 'none' && quota === undefined)
			throw wrongWords(`--quota takes a size such as 500MB, not "${options.quota}"`);
		const fields: ClassFields = {
			name: options.name ?? known?.name ?? word,
			letter: options.letter ?? known?.letter ?? word.slice(0, 1).toUpperCase(),
			isProtected: options.protected ?? known?.isProtected ?? false,
			quotaBytes: options.quota === undefined ? known?.quotaBytes : quota
		};
		const wish = { kind: 'class' as const, class: known?.word ?? null, fields };
		const tried = await tryRetention(context, wish);
		const { overQuota } = await setRetention(context, { wish, because: options.because });
		await recalculateDue(context);
		const stored = (await showClasses(context)).find(({ name }) => name === fields.name.trim());
		return {
			result: { class: stored?.word, ...fields, overQuota },
			lines: [
				known ? `The class "${fields.name}" was changed.` : `The class "${fields.name}" was added.`,
				...triedWords(tried),
				...overQuota
			]
		};
	},
	classes
);

changing<{ because?: string }>(
	'remove <class>',
	'remove a class that nothing uses',
	(c) => c.option('--because <text>', 'why: it stays in the ledger'),
	async (context, { because = '' }, word = '') => {
		await discardClass(context, { class: word, because });
		return { result: { removed: word }, lines: [`The class "${word}" was removed.`] };
	},
	classes
);
