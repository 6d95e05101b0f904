import { TOTP, Secret } from 'otpauth';
import { describe, expect, it } from 'vitest';
import { hashPassword, isPassword, wrongWithPassword } from './passwords.ts';
import { localPath } from '../web/local-path.ts';
import { newRecoveryCode, recoveryCodeKey, stepOfCode } from './secrets.ts';

/* The secret of RFC 6238 appendix B ("12345678901234567890"), in Base32. */
const SECRET = 'GEZDGNBVGY3TQOJQGEZDGNBVGY3TQOJQ';

describe('one-time codes', () => {
	/*
	 * RFC 6238 appendix B, SHA-1: its codes have eight digits; the last six are the code of six digits (RFC 4226
	 * section 5.3).
	 */
	it.each([
		[59, '94287082'],
		[1111111109, '07081804'],
		[1111111111, '14050471'],
		[1234567890, '89005924'],
		[2000000000, '69279037'],
		[20000000000, '65353130']
	])('at %i is the end of %s', (now, code) => {
		expect(stepOfCode(SECRET, code.slice(2), { now, after: 0 })).toBe(Math.floor(now / 30));
	});

	/* RFC 4226 appendix D: the codes of the first counters. */
	it.each(
		['755224', '287082', '359152', '969429', '338314', '254676', '287922', '162583', '399871', '520489'].map(
			(code, step) => [step, code] as const
		)
	)('of step %i is %s', (step, code) => {
		expect(stepOfCode(SECRET, code, { now: step * 30, after: -1 })).toBe(step);
	});

	const codeAt = (seconds: number) =>
		new TOTP({ secret: Secret.fromBase32(SECRET), digits: 6 }).generate({ timestamp: seconds * 1000 });
	it.each([
		['the one before', -30, true],
		['the one after', 30, true],
		['two before', -60, false],
		['two after', 60, false]
	])('takes %s (RFC 6238 section 5.2): %s', (_, off, taken) => {
		const now = 1_700_000_010;
		expect(stepOfCode(SECRET, codeAt(now + off), { now, after: 0 }) !== undefined).toBe(taken);
	});

	it('takes none twice, and none with a letter wrong', () => {
		const now = 1_700_000_010;
		const step = stepOfCode(SECRET, codeAt(now), { now, after: 0 }) as number;
		expect(stepOfCode(SECRET, codeAt(now), { now, after: step })).toBeUndefined();
		expect(stepOfCode(SECRET, codeAt(now - 30), { now, after: step })).toBeUndefined();
		expect(stepOfCode(SECRET, '', { now, after: 0 })).toBeUndefined();
		expect(stepOfCode(SECRET, '12345', { now, after: 0 })).toBeUndefined();
	});
});

it('recovery codes are typed as one likes', () => {
	const code = newRecoveryCode();
	expect(code).toMatch(/^[0-9a-hjkmnp-tv-z]{4}-[0-9a-hjkmnp-tv-z]{4}-[0-9a-hjkmnp-tv-z]{4}$/);
	expect(recoveryCodeKey(` ${code.toUpperCase().replaceAll('-', ' ')}`)).toBe(code.replaceAll('-', ''));
	expect(new Set(Array.from({ length: 500 }, newRecoveryCode)).size).toBe(500);
});

describe('passwords', () => {
	it('are kept by Argon2id, and found again', async () => {
		const kept = await hashPassword('four ferries to Torsay');
		// the form of the PHC string: algorithm, version, costs (OWASP Password Storage Cheat Sheet: 19 MiB, 2 passes, 1 lane)
		expect(kept).toMatch(/^\$argon2id\$v=19\$m=19456,t=2,p=1\$/);
		expect(kept).not.toBe(await hashPassword('four ferries to Torsay'));
		expect(await isPassword(kept, 'four ferries to Torsay')).toBe(true);
		expect(await isPassword(kept, 'four ferries to torsay')).toBe(false);
		expect(await isPassword(null, 'four ferries to Torsay')).toBe(false);
		expect(await isPassword('not a hash', 'four ferries to Torsay')).toBe(false);
	});

	/* Composed and decomposed letters of RFC 8265 are the same password. */
	it('may have any letters', async () => {
		expect(await isPassword(await hashPassword('Ångström på färjan'), 'Ångström på färjan'.normalize('NFD'))).toBe(
			true
		);
	});

	/* OWASP ASVS 4.0.3, 2.1. */
	it.each([
		['too short', 'kittiwake 7', 'at least 12'],
		['far too long', 'a ferry '.repeat(17), 'at most 128'],
		['a known one', 'password1234', 'easily guessed'],
		['a known one with signs', 'P@ssw0rd1234', 'easily guessed'],
		['neighbouring keys', 'qwertyuiop12', 'easily guessed'],
		['their own name', 'ylvastrand12', 'easily guessed'],
		['their own address', 'ylva@skerryline', 'easily guessed'],
		['a few words', 'four ferries to Torsay', undefined],
		['no digits and no signs', 'corrugated lighthouse pony', undefined],
		['64 letters and more', 'kelp bladder wrack dulse laver carrageen thongweed sugar kelp oarweed', undefined],
		['letters of elsewhere', 'паром на острове утром', undefined]
	])('%s', async (_, password, says) => {
		const wrong = await wrongWithPassword(password, ['Ylva Strand', 'ylva@skerryline.example']);
		if (says === undefined) expect(wrong).toBeUndefined();
		else expect(wrong).toContain(says);
	});
});

it.each([
	['/find?q=terne', '/find?q=terne'],
	['/', '/'],
	[null, '/'],
	['', '/'],
	['//evil.example', '/'],
	['/\\evil.example', '/'],
	['https://evil.example', '/'],
	['/a b', '/'],
	['javascript:alert(1)', '/']
])('goes on to %s', (asked, to) => {
	expect(localPath(asked)).toBe(to);
});
