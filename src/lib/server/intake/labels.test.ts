import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { afterAll, expect, it } from 'vitest';
import type { ProposalKind } from '../../../core/likeness/proposals.ts';
import { closeParsePool } from '../mail/reading/parse-pool.ts';
import { rows } from '../database/rows.ts';
import { sql } from '../database/sql.ts';
import { filledOffice } from '../testing/filled-office.ts';
import { type Label, labelledMail } from '../testing/labelled-mail.ts';
import { mboxFile } from '../testing/office.ts';
import { importMailbox } from './import-mailbox.ts';
import { findProposals } from '../lots/propose.ts';

afterAll(closeParsePool);

/* The detectors' findings, in the words of the labels. */
const SAID: Partial<Record<ProposalKind, Label>> = {
	'same-bytes': 'redundant',
	'same-content': 'redundant',
	'quoted-in-full': 'redundant',
	thanks: 'thanks',
	automatic: 'automatic',
	expired: 'expired',
	leftover: 'leftover'
};

it('on mail that was labelled by hand, nothing is called redundant that is not; the rest is found well', async () => {
	const context = await filledOffice('lists');
	const { labels: ofCorpus } = JSON.parse(readFileSync('src/lib/server/testing/labels.json', 'utf8')) as {
		labels: Record<string, Label>;
	};
	const written = labelledMail();
	const labels = new Map<string, Label>(Object.entries(ofCorpus));
	for (const { text, label } of written) labels.set(createHash('sha256').update(text, 'latin1').digest('hex'), label);
	expect(labels.size).toBeGreaterThanOrEqual(300);
	await importMailbox(context, { path: mboxFile(written.map(({ text }) => text)), mailbox: 'Written' });
	for (const mailboxId of [1, 2]) await findProposals(context, { mailboxId });
	const found = await rows<{ sha: string; kind: ProposalKind | null }>(
		context.db,
		sql`SELECT lower(hex(sha256)) AS sha, proposal_item.kind FROM item JOIN message ON message.id = item.message_id
		 JOIN content ON content.id = message.content_id LEFT JOIN proposal_item ON proposal_item.item_id = item.id`
	);
	const said = new Map<string, Set<Label>>();
	for (const { sha, kind } of found) {
		const of = said.get(sha) ?? new Set();
		const label = kind === null ? undefined : SAID[kind];
		if (label) of.add(label);
		said.set(sha, of);
	}
	// every labelled message exists
	expect([...labels.keys()].filter((sha) => !said.has(sha))).toEqual([]);
	const measured = Object.fromEntries(
		(['redundant', 'thanks', 'automatic', 'expired', 'leftover'] as const).map((label) => {
			const is = [...labels].filter(([, given]) => given === label).map(([sha]) => sha);
			const says = [...labels.keys()].filter((sha) => said.get(sha)?.has(label));
			const right = says.filter((sha) => labels.get(sha) === label).length;
			return [label, { is: is.length, precision: right / says.length, recall: right / is.length }];
		})
	);
	if (process.env.KOVREL_SAY) process.stderr.write(`${JSON.stringify(measured)}\n`);
	expect(measured.redundant?.precision).toBe(1);
	for (const label of ['redundant', 'thanks', 'automatic', 'expired', 'leftover'] as const) {
		expect(measured[label]?.precision, label).toBeGreaterThanOrEqual(0.9);
		expect(measured[label]?.recall, label).toBeGreaterThanOrEqual(0.75);
	}
});
