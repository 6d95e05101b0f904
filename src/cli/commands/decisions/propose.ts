import { PROPOSAL_KINDS, type ProposalKind, proposalLabel, PROPOSALS } from '../../../core/likeness/proposals.ts';
import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';
import type { Context } from '$lib/server/context/index.ts';
import { requireMailbox } from '$lib/server/mail/index.ts';
import { prepareDocket, type Scope } from '$lib/server/docket/index.ts';
import { findProposals, listProposals, proposalItems } from '$lib/server/lots/index.ts';
import { command, oneOf } from '../../command.ts';
import { table } from '../../terminal.ts';

interface ProposeOptions {
	mailbox: string;
	kind?: string;
	items?: boolean;
	draft?: boolean;
}

async function everyItem(context: Context, mailboxId: number, kind: ProposalKind) {
	const found = [];
	for (let offset = 0; ;) {
		const { items } = await proposalItems(context, { mailboxId, kind, limit: 1_000, offset });
		found.push(...items);
		if (items.length < 1_000) return found;
		offset += items.length;
	}
}

command<ProposeOptions>(
	'propose',
	'find mail that repeats other mail or looks unneeded, and what each group would free; decides nothing',
	(c) =>
		c
			.requiredOption('--mailbox <name>', 'mailbox')
			.option('--kind <kind>', `one kind only: ${PROPOSAL_KINDS.join(', ')}`)
			.option('--items', 'list each message with its reason')
			.option('--draft', 'draft a docket for each kind'),
	async (context, { mailbox: name, kind, items: listed, draft }) => {
		const mailbox = await requireMailbox(context, name);
		const kinds = kind === undefined ? undefined : [oneOf('--kind', PROPOSAL_KINDS, kind)];
		await findProposals(context, { mailboxId: mailbox.id, kinds });
		const { proposals, emptyFolders } = await listProposals(context, { mailboxId: mailbox.id });
		const shown = [];
		for (const { kind, messages, bytes, decision } of proposals) {
			if (kinds && !kinds.includes(kind)) continue;
			const scope: Scope = { kind: 'proposal', proposal: kind, ids: undefined, label: proposalLabel(kind) };
			const docket = draft
				? (await prepareDocket(context, { mailboxId: mailbox.id, lines: [{ decision, options: {}, scope }] })).id
				: null;
			const items = listed ? await everyItem(context, mailbox.id, kind) : undefined;
			shown.push({
				kind,
				decision,
				messages,
				bytes,
				docket,
				...(items
					? {
							items: items.map(({ id, subject, folder, reason, betterId }) => ({
								id,
								subject,
								folder,
								reason,
								betterId
							}))
						}
					: {})
			});
		}
		return {
			result: { proposals: shown, emptyFolders: emptyFolders.map(({ path }) => path) },
			lines: [
				...table(
					shown.map(({ kind, decision, messages, bytes, docket }) => [
						`${PROPOSALS[kind].name} (${kind}): ${decision}`,
						showMessages(messages),
						showBytes(bytes),
						docket === null ? '' : `docket ${docket}`
					])
				),
				...shown.flatMap(({ items = [] }) =>
					items.map(({ id, subject, folder, reason }) => `  ${id}  ${folder}: ${subject.slice(0, 60)}: ${reason}`)
				),
				...(emptyFolders.length > 0 ? [`${showCount(emptyFolders.length)} folders are empty.`] : []),
				'Nothing was decided.'
			]
		};
	}
);
