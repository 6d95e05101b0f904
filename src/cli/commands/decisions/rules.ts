import { quotedValue } from '../../../core/search/quoted-value.ts';
import { readFileSync, writeFileSync } from 'node:fs';
import { GROUPS, type RuleOptions, type Stay, STANDING_DECISIONS } from '../../../core/rules/rule.ts';
import { SIEVE_PORT } from '../../../core/sources/managesieve.ts';
import { readBytes, showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';
import {
	addRule,
	exportSieve,
	importSieve,
	putScriptOnServer,
	listRules,
	moveRule,
	rehearseRule,
	type Meets,
	removeRule,
	type RuleGiven,
	runRules,
	switchRule,
	takeBackRule
} from '$lib/server/rules/index.ts';
import { addPileRule } from '$lib/server/desk/index.ts';
import { changing, command, group, oneOf, readNumber, wrongWords } from '../../command.ts';

/* `rules`: standing decisions. */
const rules = group(
	'rules',
	'show, rehearse and run standing decisions: what mail may stay, and what happens to the rest'
);

interface RuleWords {
	mailbox?: string;
	name?: string;
	from?: string;
	organisation?: string;
	list?: string;
	where?: string;
	newest?: string;
	per?: string;
	olderThan?: string;
	largerInAll?: string;
	then?: string;
	tag?: string;
	folder?: string;
	since?: string;
	until?: string;
	leaveFlagged?: boolean;
}

/* Junk is a keyword on the message, as on an IMAP server. */
const JUNK = { decision: 'tag', tag: '$Junk' } as const;

function queryOf({ from, organisation, list, where }: RuleWords): string {
	const given = [from, organisation, list, where].filter((one) => one !== undefined);
	if (given.length !== 1) throw wrongWords('say one of --from, --organisation, --list and --where');
	if (from !== undefined) return quotedValue(from, from.includes('@') ? 'address' : 'from');
	if (organisation !== undefined) return quotedValue(organisation, 'organisation');
	if (list !== undefined) return quotedValue(`=${list}`, 'list');
	return where ?? '';
}

function ruleOf(words: RuleWords): RuleGiven {
	if (words.then === undefined) throw wrongWords('say what happens to the rest (--then)');
	const then =
		words.then === 'junk'
			? JUNK.decision
			: words.then === 'pile'
				? 'move'
				: oneOf('--then', STANDING_DECISIONS, words.then);
	const largerInAll = words.largerInAll === undefined ? undefined : readBytes(words.largerInAll);
	if (words.largerInAll !== undefined && largerInAll === undefined)
		throw wrongWords(`--larger-in-all takes a size such as 20MB, not "${words.largerInAll}"`);
	const stay: Stay = {
		...(words.newest === undefined ? {} : { newest: readNumber('--newest', words.newest, 1_000_000) }),
		...(words.per === undefined ? {} : { per: oneOf('--per', GROUPS, words.per) }),
		...(words.olderThan === undefined ? {} : { olderThan: words.olderThan }),
		...(largerInAll === undefined ? {} : { largerInAll })
	};
	const tag = words.then === 'junk' ? JUNK.tag : words.tag;
	const options: RuleOptions = {
		...(words.folder === undefined ? {} : { folder: words.folder }),
		...(tag === undefined ? {} : { tag }),
		...(words.leaveFlagged ? { leavesFlagged: true } : {})
	};
	return { name: words.name, query: queryOf(words), stay, then, options, since: words.since, until: words.until };
}

type Options = Parameters<Parameters<typeof command>[2]>[0];
const ruleOptions = (c: Options): Options =>
	c
		.option('--mailbox <name>', 'mailbox')
		.option('--name <name>', 'its name')
		.option('--from <sender>', 'mail of a sender: an address, or words of a name')
		.option('--organisation <domain>', 'mail of an organisation')
		.option('--list <identifier>', 'mail of a list')
		.option('--where <query>', 'mail found by a search')
		.option('--newest <n>', 'so many of the newest stay')
		.option('--per <group>', 'of each: thread, sender, list')
		.option('--older-than <duration>', 'nothing older stays: P10D, P6M, P2Y')
		.option('--larger-in-all <size>', 'the newest that weigh no more than that together stay: 20MB')
		.option('--then <decision>', `what happens to the rest: ${STANDING_DECISIONS.join(', ')}, junk, pile`)
		.option('--tag <tag>', 'for tag and untag')
		.option('--folder <path>', 'for move; for archive: straight into this folder of the archive')
		.option('--leave-flagged', 'flagged mail stays')
		.option('--since <date>', 'only mail received from that day on')
		.option('--until <date>', 'only mail received before that day');

command<{ mailbox?: string }>(
	'list',
	'list the standing decisions, in order of rank',
	(c) => c.option('--mailbox <name>', 'mailbox; without it, all'),
	async (context, { mailbox }) => {
		const found = await listRules(context, { mailbox });
		return {
			result: found.map(
				({
					id,
					position,
					isOn,
					messages,
					last,
					mailbox: of,
					name,
					query,
					stay,
					then,
					options,
					since,
					until,
					sentence
				}) => ({
					rule: id,
					mailbox: of,
					position,
					on: isOn,
					name,
					query,
					stay,
					then,
					options,
					since,
					until,
					sentence,
					messages,
					last
				})
			),
			lines:
				found.length === 0
					? ['No decision stands.']
					: found.map(
							({ id, mailbox: of, sentence, isOn, messages }) =>
								`${id} (${of})${isOn ? '' : ', off'}: ${sentence} ${messages > 0 ? `It took ${showMessages(messages)} so far.` : 'It took nothing so far.'}`
						)
		};
	},
	rules
);

changing<RuleWords>(
	'add',
	'add a standing decision; it acts with the next run',
	ruleOptions,
	async (context, words) => {
		if (words.mailbox === undefined) throw wrongWords('name the mailbox (--mailbox)');
		const add = words.then === 'pile' ? addPileRule : addRule;
		const { id, sentence } = await add(context, { mailbox: words.mailbox, rule: ruleOf(words) });
		return { result: { rule: id, sentence }, lines: [`${id}: ${sentence}`] };
	},
	rules
);

const MEETS: Record<Meets['how'], (meets: Meets) => string> = {
	wins: ({ name, messages }) => `It takes ${showMessages(messages)} first that "${name}" would take as well.`,
	loses: ({ name, messages }) => `"${name}" takes ${showMessages(messages)} of them first.`,
	'never-acts': ({ name }) => `It never acts: "${name}" takes all of them first.`,
	silences: ({ name }) => `"${name}" never acts any more: this one takes all of its mail first.`,
	circle: ({ name }) => `It and "${name}" move mail in a circle.`,
	stays: ({ name, messages }) => `${showMessages(messages)} would stay: ${name}.`,
	'before-its-time': ({ name, messages }) => `${showMessages(messages)} would go before ${name} has ended.`
};

command<RuleWords>(
	'rehearse [rule]',
	'say what a standing decision would have done with the mail of the last twelve months, and what it meets',
	ruleOptions,
	async (context, words, number) => {
		const input =
			number === undefined
				? { mailbox: words.mailbox, rule: ruleOf(words) }
				: { id: readNumber('the rule', number, 1_000_000_000) };
		if (number === undefined && words.mailbox === undefined) throw wrongWords('name the mailbox (--mailbox)');
		const { sentence, from, to, messages, bytes, freed, examples, meets } = await rehearseRule(context, input);
		return {
			result: {
				rule: input.id ?? null,
				from,
				to,
				messages,
				bytes,
				freed,
				examples: examples.map(({ id }) => id),
				meets: meets.map(({ rule, name, how, messages: shared }) => ({ rule, name, how, messages: shared }))
			},
			lines: [
				sentence,
				`From ${from} to ${to} it would have taken ${showMessages(messages)} (${showBytes(bytes)}); the mailbox would be ${showBytes(freed)} lighter.`,
				...examples.map(
					({ id, subject, from: sender, on, folder }) =>
						`  ${id}  ${on ?? 'undated'}  ${sender}  ${subject}  (${folder})`
				),
				...meets.map((one) => MEETS[one.how](one))
			]
		};
	},
	rules
);

changing<{ mailbox?: string }>(
	'run',
	'run the standing decisions: one docket a mailbox, the first of which waits for a person',
	(c) => c.option('--mailbox <name>', 'mailbox; without it, all'),
	async (context, { mailbox }) => {
		const { runs } = await runRules(context, { mailbox });
		const sum = (of: 'messages' | 'bytes') => runs.reduce((all, run) => all + run[of], 0);
		return {
			result: {
				dockets: runs.map(({ docket }) => docket),
				messages: sum('messages'),
				bytes: sum('bytes'),
				waiting: runs.filter(({ asks }) => asks).map(({ docket }) => docket),
				byRule: runs.flatMap(({ byRule }) => byRule.map(({ rule, messages }) => ({ rule, messages })))
			},
			lines:
				runs.length === 0
					? ['There is nothing to do.']
					: runs.map(
							({ mailbox: of, docket, messages, asks, byRule }) =>
								`${of}: docket ${docket}, ${showMessages(messages)}${asks ? ', waits for you to carry it out' : ''} (${byRule
									.map(({ name, messages: n }) => `${name}: ${showCount(n)}`)
									.join('; ')})`
						)
		};
	},
	rules
);

for (const [words, isOn] of [
	['on', true],
	['off', false]
] as const)
	changing(
		`${words} <rule>`,
		`switch a standing decision ${words}`,
		(c) => c,
		async (context, _options, number = '') => {
			await switchRule(context, { id: readNumber('the rule', number, 1_000_000_000), isOn });
			return {
				result: { rule: Number(number), on: isOn },
				lines: [`Standing decision ${number} is switched ${words}.`]
			};
		},
		rules
	);

changing<{ before?: string }>(
	'order <rule>',
	'put a standing decision before another one, or last',
	(c) => c.option('--before <rule>', 'the other one'),
	async (context, { before }, number = '') => {
		await moveRule(context, {
			id: readNumber('the rule', number, 1_000_000_000),
			before: before === undefined ? undefined : readNumber('--before', before, 1_000_000_000)
		});
		return {
			result: { rule: Number(number) },
			lines: [`Standing decision ${number} was put ${before === undefined ? 'last' : `before ${before}`}.`]
		};
	},
	rules
);

changing(
	'remove <rule>',
	'remove a standing decision; what it did stays',
	(c) => c,
	async (context, _options, number = '') => {
		await removeRule(context, { id: readNumber('the rule', number, 1_000_000_000) });
		return { result: { removed: Number(number) }, lines: [`Standing decision ${number} was removed.`] };
	},
	rules
);

changing<{ since?: string; until?: string }>(
	'take-back <rule>',
	'take back what a standing decision did; it does not take these messages again',
	(c) => c.option('--since <date>', 'its runs from that day on').option('--until <date>', 'its runs before that day'),
	async (context, { since, until }, number = '') => {
		const done = await takeBackRule(context, { id: readNumber('the rule', number, 1_000_000_000), since, until });
		return {
			result: done,
			lines: [`${showMessages(done.messages)} of ${showCount(done.dockets.length)} dockets were taken back.`]
		};
	},
	rules
);

command<{ mailbox?: string; sieve?: string; discard?: boolean }>(
	'export',
	'write the standing decisions of a mailbox as a Sieve script (RFC 5228); says which it cannot express, and why',
	(c) =>
		c
			.option('--mailbox <name>', 'mailbox')
			.option('--sieve <file>', 'to a file; without it, to the terminal')
			.option('--discard', 'the server destroys at once what Kovrel would delete; without it, it goes to the bin'),
	async (context, { mailbox, sieve, discard }) => {
		if (mailbox === undefined) throw wrongWords('name the mailbox (--mailbox)');
		const { script, written, left } = await exportSieve(context, { mailbox, discards: discard });
		if (sieve !== undefined) writeFileSync(sieve, script);
		return {
			result: {
				file: sieve ?? null,
				written,
				left: left.map(({ rule, why }) => ({ rule, why })),
				...(sieve === undefined ? { script } : {})
			},
			lines:
				sieve === undefined
					? [script]
					: [
							`${showCount(written.length)} standing decisions were written to ${sieve}.`,
							...left.map(({ rule, name, why }) => `Left out: ${rule}, ${name}: ${why}.`)
						]
		};
	},
	rules
);

command<{ mailbox?: string; port?: string; replace?: boolean }>(
	'put',
	'put the standing decisions of a live mailbox on its mail server (ManageSieve, RFC 5804): they act at delivery',
	(c) =>
		c
			.option('--mailbox <name>', 'mailbox')
			.option('--port <port>', `port of the ManageSieve server; without it, ${SIEVE_PORT}`)
			.option('--replace', 'make it active in place of another script that is active there'),
	async (context, { mailbox, port, replace }) => {
		if (mailbox === undefined) throw wrongWords('name the mailbox (--mailbox)');
		const { sentences, ...done } = await putScriptOnServer(context, {
			mailbox,
			port: port === undefined ? undefined : readNumber('--port', port, 65_535),
			replaces: replace
		});
		return { result: done, lines: sentences };
	},
	rules
);

changing<{ mailbox?: string }>(
	'import <file>',
	'add the standing decisions of a script that Kovrel wrote',
	(c) => c.option('--mailbox <name>', 'mailbox'),
	async (context, { mailbox }, file = '') => {
		if (mailbox === undefined) throw wrongWords('name the mailbox (--mailbox)');
		let script: string;
		try {
			script = readFileSync(file, 'utf8');
		} catch {
			throw wrongWords(`"${file}" cannot be read`);
		}
		const { added, same } = await importSieve(context, { mailbox, script });
		return {
			result: { added, same },
			lines: [`${showCount(added.length)} standing decisions were added, ${showCount(same)} stood already.`]
		};
	},
	rules
);
