import { type CalendarDate, daysBetween, readDate } from '../../../core/calendar.ts';
import { damageSummary } from '../../../core/archive/damage.ts';
import { type Context, defineJob, defineUseCase, today } from '../context/index.ts';
import { type Db, getSetting, inTransaction, letWrite, putSetting, type Range } from '../database/index.ts';
import { log } from '../log.ts';
import { noteIfPossible } from '../note-if-possible.ts';
import { highestContent } from '../mail/index.ts';
import { unlessBroken } from './readable-ranges.ts';
import { verify, type VerifyResult } from './verify-archive.ts';

/** How far the checks are that run by themselves, and what the last check of any kind found. */
export interface CheckStanding {
	/** The day on which the present round began, and the day of its last share. */
	began: CalendarDate;
	on: CalendarDate;
	/** Contents up to `through` of `upTo` were checked in this round. */
	through: number;
	upTo: number;
	/** The day on which a check of everything ended: a round, or one that a person asked for. */
	wholeOn: CalendarDate | null;
	/** The damage that the last check found, in words; '': none. */
	damage: string;
	/** Whether pages of the file itself are broken: nothing is written into it then. */
	brokenPages?: boolean;
}

/* A round is over within 30 days, also where a night or two were left out. */
const NIGHTS = 28;

async function readStanding(db: Db): Promise<CheckStanding | undefined> {
	const stored = await getSetting(db, 'check-standing');
	return stored === undefined ? undefined : (JSON.parse(stored) as CheckStanding);
}

/* The contents of tonight: what is left is spread over the nights that are left. */
function shareOf({ began, through, upTo }: CheckStanding, on: CalendarDate): Range {
	const nights = Math.min(NIGHTS, Math.max(1, daysBetween(began, on) + 1));
	return { from: through + 1, to: Math.max(through + 1, Math.ceil((upTo * nights) / NIGHTS)) };
}

/**
 * Whether pages of the data file were found broken, or are as it is asked: it is not written to until it is replaced by a
 * whole one.
 */
export async function hasBrokenPages(db: Db): Promise<boolean> {
	return unlessBroken(
		readStanding(db).then((standing) => standing?.brokenPages === true),
		true
	);
}

/*
 * The log has damage as well. A file with broken pages is written to once more to say so, and again when a check of
 * everything finds it whole.
 */
async function note({ db }: Context, standing: CheckStanding): Promise<void> {
	if (standing.damage !== '')
		log.error({ damage: standing.damage }, 'damage was found: see Ledger, or "kovrel verify"');
	const wasBroken = await hasBrokenPages(db);
	if (wasBroken && standing.brokenPages) return;
	await noteIfPossible(async () => {
		if (wasBroken) await letWrite(db, true);
		await inTransaction(db, (trx) => putSetting(trx, 'check-standing', JSON.stringify(standing)));
	});
	if (standing.brokenPages) await letWrite(db, false);
}

const findsBrokenPages = ({ damaged }: VerifyResult) => damaged.some(({ what }) => what === 'page');

/* What is kept of a result for the pages; the terminal names all. */
const DAMAGE_KEPT = 50;
const forPages = (result: VerifyResult): VerifyResult => ({ ...result, damaged: result.damaged.slice(0, DAMAGE_KEPT) });

/** Checks everything, and notes what was found. */
export async function verifyAndNote(context: Context): Promise<VerifyResult> {
	const result = await verify(context);
	if (!result.finished) return result;
	const on = today(context);
	const upTo = await unlessBroken(highestContent(context.db), 0);
	const damage = damageSummary(result.damaged);
	await note(context, {
		...{ began: on, on, through: upTo, upTo, wholeOn: on, damage },
		brokenPages: findsBrokenPages(result)
	});
	return result;
}

/** Whether tonight's share has still to be checked. */
export async function checkIsDue(context: Context): Promise<boolean> {
	const standing = await readStanding(context.db);
	// broken pages wait for a person
	return standing?.on !== today(context) && standing?.brokenPages !== true;
}

/**
 * Checks a share of the contents, with all rows, the index of words, the ledger and the summaries: every content within
 * 30 days. A round begins with SQLite's own check of the whole file.
 */
export async function verifyShare(context: Context): Promise<VerifyResult> {
	const on = today(context);
	const former = await readStanding(context.db);
	const isNew = !former || former.through >= former.upTo || readDate(former.began) === undefined;
	// what came since the round began belongs to it, as its share comes last
	const upTo = await unlessBroken(highestContent(context.db), former?.upTo ?? 0);
	const round: CheckStanding = isNew
		? { began: on, on, through: 0, upTo, wholeOn: former?.wholeOn ?? null, damage: '' }
		: { ...former, upTo };
	const share = shareOf(round, on);
	const result = await verify(context, { contents: share, pages: isNew });
	if (!result.finished) return result;
	const through = Math.min(round.upTo, share.to);
	const isOver = through >= round.upTo;
	// damage in contents that are not looked at tonight is still there
	const before = isNew ? '' : round.damage;
	await note(context, {
		...round,
		on,
		through,
		wholeOn: isOver ? on : round.wholeOn,
		damage: damageSummary(result.damaged) || before,
		brokenPages: findsBrokenPages(result) || (!isNew && former.brokenPages)
	});
	return forPages(result);
}

/** How far the checks are; undefined: nothing was checked yet. */
export async function checkStanding(context: Context): Promise<CheckStanding | undefined> {
	return readStanding(context.db);
}

/** The use cases of this file. */
export const checkStandingUseCases = [
	defineJob(
		{
			name: 'verifyArchive',
			thread: 'checker',
			right: 'administrator',
			run: async (context) => forPages(await verifyAndNote(context))
		},
		{ lane: 'check', about: () => ({ kind: 'verify' }) }
	),
	defineJob(
		{ name: 'verifyShare', thread: 'checker', right: 'administrator', run: verifyShare },
		{ lane: 'check', about: () => ({ kind: 'verify share' }) }
	),
	defineUseCase({ name: 'checkIsDue', thread: 'reader', right: 'administrator', run: checkIsDue }),
	defineUseCase({ name: 'checkStanding', thread: 'reader', right: 'oversight', run: checkStanding })
] as const;
