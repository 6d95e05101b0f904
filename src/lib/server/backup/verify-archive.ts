import { type Damage, type DamagedWhat, isRepairable } from '../../../core/archive/damage.ts';
import { summarise } from '../../../core/message/summary.ts';
import { scanStructure } from '../../../core/message/structure.ts';
import { showCount } from '../../../core/weigh/units.ts';
import { checkLedger } from '../ledger/index.ts';
import {
	compareWeights,
	DamagedContentError,
	differingRows,
	idsOf,
	indexFinds,
	knownRows,
	messageRows,
	messagesLackingParts,
	type Place,
	placeOfItem,
	placesOfContent,
	placesOfMessage,
	readContent,
	someMessages,
	type SummedTable,
	wordsWithoutMessage
} from '../mail/index.ts';
import { compareDue } from '../standing/index.ts';
import { differingCertificates } from '../docket/index.ts';
import { checkDatabase, databaseFile, isBrokenPage, type Db, type Range } from '../database/index.ts';
import { checkContents } from './check-contents.ts';
import { readableRanges, unlessBroken } from './readable-ranges.ts';
import type { Context } from '../context/index.ts';

/** The result of a full check. */
export interface VerifyResult {
	ok: boolean;
	/** What was looked at. */
	checked: { contents: number; messages: number; items: number; ledger: number };
	damaged: Damage[];
	/** Each message's bytes once, with bytes kept raw; as received, and as stored. */
	messages: number;
	bytes: number;
	storedBytes: number;
	ledger: { lines: number; ok: boolean; brokenAt: number | undefined; head: string };
	/** Rows of the summaries that differ from a fresh count. */
	weightsDiffering: number;
	/** Dockets whose certificates differ from their hash in the ledger. */
	certificatesDiffering: number[];
	/** False if it was stopped. */
	finished: boolean;
}

/* Rows compared together with their sums. */
const ROWS_AT_ONCE = 5_000;
/* Messages whose words are looked for in the index, and words of each. */
const SAMPLE = 200;
const WORDS_OF_EACH = 40;
/* Damage of one kind that is named singly. */
const MOST_NAMED = 1_000;

/* Collects damage; what cannot be read is damage as well, and the check goes on behind it. */
class Findings {
	readonly damaged: Damage[] = [];
	readonly #db: Db;
	readonly #named = new Map<DamagedWhat, number>();

	constructor(db: Db) {
		this.#db = db;
	}

	add(what: DamagedWhat, id: number | null, says: string, place?: Place): void {
		const named = (this.#named.get(what) ?? 0) + 1;
		this.#named.set(what, named);
		if (named > MOST_NAMED) return;
		const { subject = null, mailbox = null, folder = null } = place ?? {};
		this.damaged.push({ what, id, subject, mailbox, folder, repairable: isRepairable(what), says });
	}

	/** Adds what concerns mail, once for each place where it lies. */
	async addMail(what: DamagedWhat, id: number, says: string, places: () => Promise<Place[]>): Promise<void> {
		let found: Place[] = [];
		try {
			found = await places();
		} catch (error) {
			if (!isBrokenPage(error)) throw error;
		}
		if (found.length === 0) this.add(what, id, says);
		for (const place of found) this.add(what, id, says, place);
	}

	/** The result of a check; undefined if it met a page that cannot be read. */
	async try<T>(what: DamagedWhat, work: (db: Db) => Promise<T>): Promise<T | undefined> {
		try {
			return await work(this.#db);
		} catch (error) {
			if (!isBrokenPage(error)) throw error;
			this.add(what, null, `cannot be read whole: ${(error as Error).message}`);
			return undefined;
		}
	}
}

/* A broken page at either place is named by SQLite's own check. */
async function numbersOf(findings: Findings, db: Db, table: SummedTable): Promise<Range | undefined> {
	try {
		return await idsOf(db, table);
	} catch (error) {
		if (!isBrokenPage(error)) throw error;
		return findings.try(table, () => idsOf(db, table, { beside: true }));
	}
}

async function checkRows({ db, signal }: Context, findings: Findings, table: SummedTable): Promise<number> {
	const all = await numbersOf(findings, db, table);
	if (!all) return 0;
	let counted = 0;
	const broken: number[] = [];
	const compare = (range: Range) => differingRows(db, table, range);
	for await (const { rows, differing } of readableRanges(all, ROWS_AT_ONCE, compare, (id) => broken.push(id))) {
		counted += rows;
		broken.push(...differing);
		if (signal.aborted) break;
	}
	// a number in a broken page may never have been used
	for (const id of await unlessBroken(knownRows(db, table, broken), broken))
		await findings.addMail(table, id, 'its row has changed since it was written', async () => {
			if (table === 'message') return placesOfMessage(db, id);
			const place = await placeOfItem(db, id);
			return place ? [place] : [];
		});
	return counted;
}

async function checkParts({ db, signal }: Context, findings: Findings): Promise<void> {
	const all = await numbersOf(findings, db, 'message');
	if (!all) return;
	// rows that cannot be read were named before
	for await (const lacking of readableRanges(
		all,
		ROWS_AT_ONCE,
		(range) => messagesLackingParts(db, range),
		() => {}
	)) {
		for (const id of lacking.bytes)
			await findings.addMail('message', id, 'its bytes are not there', () => placesOfMessage(db, id));
		for (const id of lacking.words)
			await findings.addMail('words', id, 'its words are not in the index', () => placesOfMessage(db, id));
		if (signal.aborted) break;
	}
	for (const id of (await findings.try('words', wordsWithoutMessage)) ?? [])
		findings.add('words', id, 'the index has words of a message that is not there');
}

/* Marks belong to their letter; the index cuts as it does everywhere. */
const WORD = /[\p{L}\p{N}\p{M}]+/gu;

/** Some words of the texts of a message, spread over each of them. */
function someWords(texts: readonly string[]): string[] {
	const words = [...new Set(texts.flatMap((text) => text.match(WORD) ?? []))].filter(
		(word) => word.length >= 3 && word.length <= 40
	);
	const step = Math.max(1, Math.floor(words.length / WORDS_OF_EACH));
	return words.filter((_, at) => at % step === 0);
}

/* The words of some messages, read again from their bytes, are found by the index. */
async function checkWords({ db, signal }: Context, findings: Findings): Promise<void> {
	const all = await numbersOf(findings, db, 'message');
	if (!all) return;
	const step = Math.max(1, Math.floor((all.to - all.from + 1) / SAMPLE));
	const ids = Array.from({ length: SAMPLE }, (_, at) => all.from + at * step);
	const messages = (await findings.try('message', () => someMessages(db, ids))) ?? [];
	for (const { id, contentId } of messages) {
		if (signal.aborted) return;
		try {
			const bytes = await readContent(db, contentId);
			if (!bytes) continue;
			const summary = summarise(new Uint8Array(bytes), scanStructure(bytes));
			if (!summary) continue;
			if (await indexFinds(db, id, someWords(messageRows(summary).words))) continue;
			// it may have been destroyed meanwhile, or is being read again
			if ((await someMessages(db, [id])).length > 0)
				await findings.addMail('words', id, 'the index does not find its words', () => placesOfMessage(db, id));
		} catch (error) {
			// damaged bytes were named before
			if (error instanceof DamagedContentError) continue;
			if (!isBrokenPage(error)) throw error;
			await findings.addMail('words', id, 'its words cannot be read in the index', () => placesOfMessage(db, id));
		}
	}
}

const NO_LEDGER = { lines: 0, ok: false, brokenAt: undefined, head: '' };

/**
 * Checks everything, or a share of it: SQLite's own integrity check with its indexes, every content's SHA-256, the sum
 * of each message's and item's own row, the words in the index, the ledger's chain, the certificates and the summaries.
 * Goes on behind what cannot be read, and names the mail that is damaged. Changes nothing.
 *
 * @param share.contents only contents with these numbers
 * @param share.pages whether SQLite checks the whole file
 */
export async function verify(
	context: Context,
	{ contents: range, pages = true }: { contents?: Range; pages?: boolean } = {}
): Promise<VerifyResult> {
	const { db } = context;
	const findings = new Findings(db);
	if (pages) for (const fault of checkDatabase(databaseFile(context.dataFolder))) findings.add('page', null, fault);
	const contents = await checkContents(db, context, range);
	for (const id of contents.damaged)
		await findings.addMail('content', id, 'its bytes are not those that came in', () => placesOfContent(db, id));
	context.report({
		done: contents.contents,
		total: contents.contents,
		note: `${showCount(contents.contents)} contents checked`
	});
	const messages = await checkRows(context, findings, 'message');
	const items = await checkRows(context, findings, 'item');
	await checkParts(context, findings);
	await checkWords(context, findings);
	const ledger = (await findings.try('ledger', checkLedger)) ?? NO_LEDGER;
	if (!ledger.ok) findings.add('ledger', ledger.brokenAt ?? null, 'the chain of lines is broken');
	const weightsDiffering =
		((await findings.try('summary', compareWeights)) ?? 0) + ((await findings.try('summary', compareDue)) ?? 0);
	if (weightsDiffering > 0)
		findings.add('summary', null, `${showCount(weightsDiffering)} sums differ from a fresh count`);
	const certificatesDiffering = (await findings.try('certificate', differingCertificates)) ?? [];
	for (const id of certificatesDiffering) findings.add('certificate', id, 'it is not what the ledger says');
	const finished = !context.signal.aborted;
	return {
		ok: finished && findings.damaged.length === 0,
		checked: { contents: contents.contents, messages, items, ledger: ledger.lines },
		damaged: findings.damaged,
		messages: contents.messages,
		bytes: contents.bytes,
		storedBytes: contents.storedBytes,
		ledger,
		weightsDiffering,
		certificatesDiffering,
		finished
	};
}
