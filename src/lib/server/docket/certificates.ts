import { createHash, type Hash } from 'node:crypto';
import { stringify } from 'csv-stringify/sync';
import { CSV_FORMAT, harmlessCell } from '../../../core/formats/csv-cells.ts';
import { showDate } from '../../../core/calendar.ts';
import {
	reasonWords,
	certificateHeadText,
	type CertificateLine,
	certificateLineText
} from '../../../core/retention/certificates.ts';
import { Refusal } from '../refusal.ts';
import {
	type Certificate,
	type CertificateGround,
	certificateGrounds,
	type CertificateItem,
	certificateItems,
	getCertificate,
	listCertificates,
	putCertificateHash
} from './certificates-store.ts';
import type { Db } from '../database/index.ts';
import { certificateHashes } from '../ledger/index.ts';
import { type Context, count, defineUseCase, id, text } from '../context/index.ts';
import Joi from 'joi';

const AT_ONCE = 5_000;

/* The day of a certificate: that of its first line in UTC, as its text says. */
const dayOf = ({ madeAt }: Pick<Certificate, 'madeAt'>) => madeAt.slice(0, 10);

const toLine =
	(destroyedOn: string) =>
	({ sha256, contentGone, ...item }: CertificateItem): CertificateLine => ({
		...item,
		sha256: sha256.toString('hex'),
		because: reasonWords(item, destroyedOn),
		isElsewhere: contentGone === 0
	});

async function* allLines(db: Db, certificate: Pick<Certificate, 'id' | 'madeAt'>): AsyncGenerator<CertificateLine[]> {
	for (let after = 0; ;) {
		const items = await certificateItems(db, certificate.id, after, AT_ONCE);
		const last = items.at(-1);
		if (!last) return;
		yield items.map(toLine(dayOf(certificate)));
		after = last.itemId;
	}
}

async function hashOf(db: Db, certificate: Certificate): Promise<string> {
	const hash: Hash = createHash('sha256').update(certificateHeadText(certificate));
	for await (const lines of allLines(db, certificate)) for (const line of lines) hash.update(certificateLineText(line));
	return hash.digest('hex');
}

/** Closes the certificate of a finished docket: its hash becomes part of the ledger's chain. */
export async function closeCertificate(db: Db, docketId: number): Promise<string | undefined> {
	const certificate = await getCertificate(db, { docketId });
	if (!certificate) return undefined;
	const sha256 = await hashOf(db, certificate);
	await putCertificateHash(db, certificate.id, sha256);
	return sha256;
}

/** A certificate with a page of its messages. */
export interface CertificateView extends Certificate {
	items: CertificateLine[];
	/** The bases of all its messages: series, version and authority, or deletion; each once. */
	grounds: { words: string; messages: number }[];
	/** Whether it matches its hash in the ledger; undefined: it is not closed, or older than that check. */
	isGenuine: boolean | undefined;
}

/** Compares certificates with their hashes in the ledger. @returns the numbers of those that differ */
export async function differingCertificates(db: Db): Promise<number[]> {
	const differing: number[] = [];
	for (const [docketId, sha256] of await certificateHashes(db)) {
		const certificate = await getCertificate(db, { docketId });
		if (!certificate || (await hashOf(db, certificate)) !== sha256) differing.push(docketId);
	}
	return differing;
}

/* The period over which messages were deleted. */
function groundWords(
	{ terms, firstBinnedOn, lastBinnedOn }: Pick<CertificateGround, 'terms' | 'firstBinnedOn' | 'lastBinnedOn'>,
	destroyedOn: string
): string {
	if (firstBinnedOn === null || lastBinnedOn === null || firstBinnedOn === lastBinnedOn)
		return reasonWords({ terms, binnedOn: firstBinnedOn }, destroyedOn);
	return `deleted from ${showDate(firstBinnedOn)} to ${showDate(lastBinnedOn)}, destroyed from the bin on ${showDate(destroyedOn)}`;
}

/** The certificate of a docket, compared with the ledger. @throws Refusal */
export async function readCertificate(
	{ db }: Pick<Context, 'db'>,
	input: { docketId: number; after?: number; limit: number }
): Promise<CertificateView> {
	const certificate = await getCertificate(db, { docketId: input.docketId });
	if (!certificate) throw new Refusal('not-found', `Docket ${input.docketId} has destroyed nothing.`);
	const noted = (await certificateHashes(db, input.docketId)).get(input.docketId);
	const items = await certificateItems(db, certificate.id, input.after ?? 0, input.limit);
	return {
		...certificate,
		items: items.map(toLine(dayOf(certificate))),
		grounds: (await certificateGrounds(db, certificate.id)).map(({ series, version, authority, messages, ...why }) => ({
			words: [
				series ? `Series ${series}, version ${version}` : 'No series',
				groundWords(why, dayOf(certificate)),
				authority
			]
				.filter(Boolean)
				.join('; '),
			messages
		})),
		isGenuine: noted === undefined ? undefined : noted === (await hashOf(db, certificate))
	};
}

/** All certificates, the newest first. */
export async function listedCertificates(
	{ db }: Pick<Context, 'db'>,
	input: { mailbox?: string | undefined; limit: number }
): Promise<Certificate[]> {
	return listCertificates(db, input.mailbox, input.limit);
}

const CSV_COLUMNS = [
	'item',
	'sha256',
	'bytes',
	'received',
	'due',
	'deleted',
	'series',
	'version',
	'authority',
	'because',
	'from',
	'subject',
	'same_bytes_elsewhere'
];

const csvRow = (line: CertificateLine) =>
	[
		line.itemId,
		line.sha256,
		line.bytes,
		line.receivedOn,
		line.dueOn,
		line.binnedOn,
		line.series,
		line.version,
		line.authority,
		line.because,
		line.from,
		line.subject,
		line.isElsewhere ? 'yes' : 'no'
	].map(harmlessCell);

/**
 * A certificate as a document: CSV (RFC 4180), or JSON with its head and its hash.
 *
 * @throws Refusal
 */
export async function* exportCertificate(
	{ db }: Pick<Context, 'db'>,
	input: { docketId: number; format: 'csv' | 'json' }
): AsyncGenerator<Uint8Array> {
	const certificate = await getCertificate(db, { docketId: input.docketId });
	if (!certificate) throw new Refusal('not-found', `Docket ${input.docketId} has destroyed nothing.`);
	const utf8 = new TextEncoder();
	const isCsv = input.format === 'csv';
	yield utf8.encode(
		isCsv ? stringify([CSV_COLUMNS], CSV_FORMAT) : `${JSON.stringify(certificate).slice(0, -1)},"items":[`
	);
	let between = '';
	for await (const lines of allLines(db, certificate)) {
		yield utf8.encode(
			isCsv ? stringify(lines.map(csvRow), CSV_FORMAT) : between + lines.map((line) => JSON.stringify(line)).join(',')
		);
		between = ',';
	}
	if (!isCsv) yield utf8.encode(']}\n');
}

/** The use cases of this file. */
export const certificatesUseCases = [
	defineUseCase({
		name: 'listedCertificates',
		input: () => Joi.object({ mailbox: text, limit: count.required() }).required(),
		thread: 'reader',
		right: 'oversight',
		run: listedCertificates
	}),
	defineUseCase({
		name: 'readCertificate',
		input: () => Joi.object({ docketId: id.required(), after: count, limit: count.required() }).required(),
		thread: 'heavy',
		right: 'oversight',
		run: readCertificate
	}),
	defineUseCase({
		name: 'exportCertificate',
		input: () => Joi.object({ docketId: id.required(), format: Joi.valid('csv', 'json').required() }).required(),
		thread: 'checker',
		right: 'oversight',
		run: exportCertificate
	})
] as const;
