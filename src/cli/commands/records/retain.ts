import { readPeriod } from '../../../core/retention/periods.ts';
import { DISPOSITIONS, type Terms, TRIGGERS, termsText } from '../../../core/retention/terms.ts';
import { recalculateDue } from '$lib/server/standing/index.ts';
import { requireFolder, requireMailbox } from '$lib/server/mail/index.ts';
import {
	type RetentionGiven,
	listRetained,
	type RetentionSetting,
	setRetention,
	triedWords,
	tryRetention
} from '$lib/server/retention/index.ts';
import { changing, oneOf, wrongWords } from '../../command.ts';

interface Options {
	mailbox?: string;
	series?: string;
	period?: string;
	trigger: string;
	disposition?: string;
	archiveAfter?: string;
	none?: boolean;
	class?: string;
	closed?: string;
	named?: boolean;
	default?: boolean;
	reset?: boolean;
	because?: string;
}

function periodOf(option: string, text: string | undefined) {
	if (text === undefined || text === 'permanent') return undefined;
	const period = readPeriod(text);
	if (!period) throw wrongWords(`${option} takes a duration such as P7Y, P18M or P30D, not "${text}"`);
	return period;
}

function givenBy({ series, period, trigger, disposition, archiveAfter, none }: Options): RetentionGiven | undefined {
	if ([series, period, none].filter((one) => one !== undefined).length > 1)
		throw wrongWords('say one of --series, --period and --none');
	if (none) return 'none';
	if (series !== undefined) return { series };
	if (period === undefined) return undefined;
	const usual = period === 'permanent' ? 'keep' : archiveAfter === undefined ? 'destroy' : 'archive-destroy';
	const terms: Terms = {
		trigger: oneOf('--trigger', TRIGGERS, trigger),
		disposition: oneOf('--disposition', DISPOSITIONS, disposition ?? usual),
		period: periodOf('--period', period),
		archiveAfter: periodOf('--archive-after', archiveAfter)
	};
	return { terms: termsText(terms) };
}

/* `retain`: retention periods of folders, folder names, mailboxes and classes. */
changing<Options>(
	'retain [folder...]',
	'set the series, period or class of folders; says what that changes',
	(c) =>
		c
			.option('--mailbox <name>', 'mailbox')
			.option('--series <code>', 'series of the schedule')
			.option('--period <duration>', 'a plain period: P7Y, P18M, P30D (ISO 8601), or permanent')
			.option('--trigger <word>', 'what starts it: received, thread, calendar-year, financial-year, closed', 'received')
			.option('--disposition <word>', 'what happens at its end: archive, destroy, archive-destroy, review, keep')
			.option('--archive-after <duration>', 'where it is archived first')
			.option('--none', 'no setting of its own: inherit')
			.option('--class <class>', 'the word of a class (kovrel class list), or as-inherited')
			.option('--closed <date>', 'the folder is closed on that day; "open": it is open again')
			.option('--named', 'every folder of that name, in all mailboxes')
			.option('--default', 'the rest of the mailbox')
			.option('--reset', 'reset every folder of the mailbox to the default')
			.option('--because <text>', 'why; records want a reason'),
	async (context, options, ...paths) => {
		const given = givenBy(options);
		const recordClass = options.class === 'as-inherited' ? null : options.class;
		const wishes: RetentionSetting[] = [];
		const mailbox = async () => {
			if (options.mailbox === undefined) throw wrongWords('name the mailbox (--mailbox)');
			return requireMailbox(context, options.mailbox);
		};
		if (options.reset) wishes.push({ kind: 'reset', mailboxId: (await mailbox()).id });
		else if (options.default) {
			if (!given) throw wrongWords('say --series, --period or --none');
			wishes.push({ kind: 'default', mailboxId: (await mailbox()).id, retention: given });
		} else if (options.named)
			for (const name of paths) wishes.push({ kind: 'named', name, retention: given, class: recordClass });
		else if (paths.length === 0 && recordClass && given)
			wishes.push({ kind: 'class', class: recordClass, retention: given });
		else if (paths.length > 0) {
			const where = await mailbox();
			const folderIds: number[] = [];
			for (const path of paths) folderIds.push((await requireFolder(context, where, path)).id);
			wishes.push({
				kind: 'folders',
				folderIds,
				retention: given,
				class: recordClass,
				closedOn: options.closed === undefined ? undefined : options.closed === 'open' ? null : options.closed
			});
		}
		if (wishes.length === 0) throw wrongWords('name folders, or say --default, --named or --reset');
		const lines: string[] = [];
		const changes: unknown[] = [];
		const overQuota: string[] = [];
		for (const wish of wishes) {
			const tried = await tryRetention(context, wish);
			const { overQuota: over } = await setRetention(context, { wish, because: options.because });
			lines.push(...triedWords(tried), ...over);
			overQuota.push(...over);
			changes.push(...tried.mailboxes);
		}
		// a large mailbox takes minutes
		await recalculateDue(context);
		if (options.mailbox !== undefined && paths.length > 0 && !options.named) {
			const { id } = await mailbox();
			const { folders } = await listRetained(context, { mailboxId: id });
			const named = new Set(paths.map((path) => path.toLowerCase()));
			lines.push(
				...folders
					.filter(({ path }) => named.has(path.toLowerCase()))
					.map(({ path, sentence }) => `${path}: ${sentence}`)
			);
		}
		return { result: { changes, overQuota }, lines };
	}
);
