import { createHash, randomBytes } from 'node:crypto';
import { Secret, TOTP } from 'otpauth';

/** An unguessable secret: 256 bits, in the form for a link or a cookie. */
export function newToken(): string {
	return randomBytes(32).toString('base64url');
}

/**
 * The stored form of a token or a recovery code. They are random, so a plain hash is enough (OWASP ASVS 4.0.3, 2.9
 * and 3.2).
 */
export function hashSecret(secret: string): Buffer {
	return createHash('sha256').update(secret).digest();
}

/* Crockford's alphabet, without letters that look alike. */
const LETTERS = '0123456789abcdefghjkmnpqrstvwxyz';

/** A recovery code: 60 bits in groups of four, to be typed from paper. */
export function newRecoveryCode(): string {
	const letters = [...randomBytes(12)].map((byte) => LETTERS[byte % 32]).join('');
	return letters.replace(/(.{4})(?!$)/g, '$1-');
}

/** A recovery code in the form that is compared: without case and dashes. */
export function recoveryCodeKey(typed: string): string {
	return typed.toLowerCase().replace(/[^0-9a-z]/g, '');
}

/** A secret for one-time codes, in Base32 (RFC 4648). */
export function newCodeSecret(): string {
	return new Secret({ size: 20 }).base32;
}

const STEP_SECONDS = 30;

/* Parameters that authenticators support (RFC 6238 section 4; six digits after RFC 4226 section 5.3). */
function codes(secret: string, account: string): TOTP {
	return new TOTP({
		issuer: 'Kovrel',
		label: account,
		secret: Secret.fromBase32(secret),
		algorithm: 'SHA1',
		digits: 6,
		period: STEP_SECONDS
	});
}

/** The address in the QR code for an authenticator. */
export function codeAddress(secret: string, account: string): string {
	return codes(secret, account).toString();
}

/**
 * The time step in which a one-time code is valid: the present one, or one before or after it for clocks that differ
 * (RFC 6238 section 5.2).
 *
 * @param after the last step a code was taken of: none is taken twice
 * @returns undefined where it is not valid
 */
export function stepOfCode(
	secret: string,
	code: string,
	{ now, after }: { now: number; after: number }
): number | undefined {
	const step = Math.floor(now / STEP_SECONDS);
	const off = codes(secret, '').validate({ token: code.replace(/\s/g, ''), timestamp: now * 1000, window: 1 });
	return off === null || step + off <= after ? undefined : step + off;
}
