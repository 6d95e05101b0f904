import { describe, expect, it } from 'vitest';
import {
	flagBits,
	flagsOf,
	isManyGone,
	leftOnServer,
	isMarkedDeleted,
	isView,
	keywordsOf,
	pathHere,
	quotaSentence,
	roleOfUse,
	usualPort,
	wrongServer
} from './server.ts';

describe('the place of a server', () => {
	it.each([
		['mail.skerryline.example', 993, 'implicit', undefined],
		['mail.skerryline.example', 143, 'starttls', undefined],
		['127.0.0.1', 4143, 'none', undefined],
		['localhost', 143, 'none', undefined],
		['[::1]', 143, 'none', undefined],
		['mail.skerryline.example', 143, 'none', /on this machine alone/],
		['127.0.0.1.skerryline.example', 143, 'none', /on this machine alone/],
		['', 993, 'implicit', /Name the server/],
		['https://mail.example', 993, 'implicit', /Name the server/],
		['me@mail.example', 993, 'implicit', /Name the server/],
		['mail.example', 0, 'implicit', /A port/],
		['mail.example', 70_000, 'implicit', /A port/],
		['mail.example', 1.5, 'implicit', /A port/]
	] as const)('%j, port %j, %s', (host, port, tls, wrong) => {
		const said = wrongServer({ host, port, tls });
		if (wrong) expect(said).toMatch(wrong);
		else expect(said).toBeUndefined();
	});

	// RFC 8314 section 3.2, RFC 3501 section 2.1
	it.each([
		['implicit', 993],
		['starttls', 143],
		['none', 143]
	] as const)('is usually, for %s, the port %d', (tls, port) => expect(usualPort(tls)).toBe(port));
});

describe('what a server says', () => {
	it.each([
		['INBOX', '/', 'Inbox'],
		['inbox', '.', 'Inbox'],
		['INBOX.Vessels.Skua', '.', 'Inbox/Vessels/Skua'],
		['Projects/INBOX', '/', 'Projects/INBOX'],
		['Fees 1/2', '.', 'Fees 1∕2'],
		['A//B', '/', 'A/B'],
		['Flat', '', 'Flat']
	])('folder %j, levels parted by %j: %j', (path, delimiter, here) => expect(pathHere(path, delimiter)).toBe(here));

	// RFC 6154 section 2
	it.each([
		['\\Trash', 'trash'],
		['\\Sent', 'sent'],
		['\\All', undefined],
		[undefined, undefined]
	])('use %j: %j', (use, role) => expect(roleOfUse(use)).toBe(role));

	// RFC 6154 section 2, RFC 8457 section 3
	it.each([
		[['\\HasNoChildren', '\\All'], true],
		[['\\FLAGGED'], true],
		[['\\Important', '\\Subscribed'], true],
		[['\\HasChildren', '\\Archive'], false],
		[[], false]
	])('a folder listed with %j is a view: %j', (attributes, view) => expect(isView(attributes)).toBe(view));

	// RFC 3501 section 2.3.2; flags have no case
	it.each([
		[[], {}, false],
		[['\\Seen', '\\FLAGGED'], { seen: true, flagged: true }, false],
		[['\\Answered', '\\Deleted', 'Ramp'], { answered: true }, true],
		[['\\Draft', '\\Recent'], { draft: true }, false]
	])('flags %j', (flags, set, deleted) => {
		const bits = flagBits(flags);
		expect(flagsOf(bits)).toEqual({ seen: false, answered: false, flagged: false, draft: false, ...set });
		expect(isMarkedDeleted(bits)).toBe(deleted);
	});

	it.each([
		[
			['\\Seen', 'Ramp', 'Quay'],
			['Quay', 'Ramp']
		],
		[['$MDNSent', '$Forwarded', '$Junk'], ['$Junk']],
		[['$Phishing'], ['$Phishing']]
	])('keywords of %j: %j', (flags, words) => expect(keywordsOf(flags)).toEqual(words));
});

describe('mail that is gone', () => {
	it.each([
		[50, 50, false],
		[51, 51, true],
		[51, 509, true],
		[51, 510, false],
		[5_000, 60_000, false],
		[7_000, 60_000, true]
	])('%d of %d: a person looks first: %s', (gone, followed, looks) =>
		expect(isManyGone({ gone, followed })).toBe(looks)
	);
});

describe('a live mailbox that is disconnected', () => {
	const host = 'mail.skerryline.example';
	it.each([
		[0, 0, '2026-11-25T12:00:00Z', ''],
		[
			1,
			3,
			'2026-11-25T12:00:00Z',
			`1 message (1.23 kB) is on ${host} alone: Kovrel has not fetched it yet. 3 messages wait for ${host}, and will not be changed there.`
		],
		[
			2_000,
			1,
			null,
			`2,000 messages (1.23 kB) are on ${host} alone: Kovrel has not fetched them yet. Kovrel has not been through this mailbox yet: ${host} may have more mail. 1 message waits for ${host}, and will not be changed there.`
		]
	])('with %d to come and %d waiting, last passed %s, leaves there what is said', (messages, waiting, passedAt, said) =>
		expect(
			leftOnServer({ host, ahead: { messages, bytes: 1_234 }, waiting, passedAt })
				.join(' ')
				.replaceAll('\u00a0', ' ')
		).toBe(said)
	);
});

describe('the quota of a server beside our own sum', () => {
	it.each([
		[{ quotaUsed: null, quotaLimit: null, bytes: 5, archived: 0 }, undefined],
		[
			{ quotaUsed: 900_000_000, quotaLimit: 1_000_000_000, bytes: 900_000_000, archived: 0 },
			/counts 900\u00a0MB of 1.00\u00a0GB \(90\u00a0%\)\. Kovrel counts 900\u00a0MB of it\.$/
		],
		[
			{ quotaUsed: 900_000_000, quotaLimit: 1_000_000_000, bytes: 600_000_000, archived: 0 },
			/the other 300\u00a0MB lie in folders that are left out/
		],
		[
			{ quotaUsed: 500_000_000, quotaLimit: 1_000_000_000, bytes: 600_000_000, archived: 0 },
			/one copy for several folders/
		],
		[
			{ quotaUsed: 500_000_000, quotaLimit: 1_000_000_000, bytes: 500_000_000, archived: 20_000_000 },
			/20.0\u00a0MB are archived here and still weigh there\.$/
		]
	])('%j', (quotas, said) => {
		const sentence = quotaSentence(quotas);
		if (said) expect(sentence).toMatch(said);
		else expect(sentence).toBeUndefined();
	});
});
