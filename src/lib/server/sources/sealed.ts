import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { chmodSync, existsSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { Refusal } from '../refusal.ts';

/*
 * Passwords of mail servers, encrypted (AES-256-GCM, NIST SP 800-38D) with a key that lies beside the data file: a backup
 * has the one without the other.
 */

const KEY_BYTES = 32;
const NONCE_BYTES = 12;
const TAG_BYTES = 16;

const keyFile = (dataFolder: string) => path.join(dataFolder, 'mail-servers.key');

function keyOf(dataFolder: string, { isFirst = false } = {}): Buffer | undefined {
	const file = keyFile(dataFolder);
	if (existsSync(file)) {
		const key = Buffer.from(readFileSync(file, 'utf8').trim(), 'base64');
		return key.length === KEY_BYTES ? key : undefined;
	}
	if (!isFirst) return undefined;
	const key = randomBytes(KEY_BYTES);
	// of two that begin at once, one makes the file
	try {
		writeFileSync(file, `${key.toString('base64')}\n`, { mode: 0o600, flag: 'wx' });
	} catch {
		return keyOf(dataFolder);
	}
	chmodSync(file, 0o600);
	return key;
}

/** Encrypts a secret; `about` is bound to it, so that it is of no use in another place. */
export function seal(dataFolder: string, secret: string, about: string): Buffer {
	const key = keyOf(dataFolder, { isFirst: true });
	if (!key)
		throw new Refusal(
			'not-possible',
			`The key for passwords of mail servers (${keyFile(dataFolder)}) cannot be read. Nothing was stored.`
		);
	const nonce = randomBytes(NONCE_BYTES);
	const cipher = createCipheriv('aes-256-gcm', key, nonce).setAAD(Buffer.from(about));
	return Buffer.concat([nonce, cipher.update(secret, 'utf8'), cipher.final(), cipher.getAuthTag()]);
}

/** Decrypts a secret. @throws Refusal if the key is another one, as after a backup was restored elsewhere */
export function open(dataFolder: string, sealed: Uint8Array, about: string): string {
	const bytes = Buffer.from(sealed);
	const key = keyOf(dataFolder);
	try {
		if (!key) throw new Error('no key');
		const decipher = createDecipheriv('aes-256-gcm', key, bytes.subarray(0, NONCE_BYTES))
			.setAAD(Buffer.from(about))
			.setAuthTag(bytes.subarray(bytes.length - TAG_BYTES));
		const inside = bytes.subarray(NONCE_BYTES, bytes.length - TAG_BYTES);
		return Buffer.concat([decipher.update(inside), decipher.final()]).toString('utf8');
	} catch (cause) {
		throw new Refusal(
			'not-possible',
			'The password of this mail server cannot be read here, as its key is not in this data folder: connect the mailbox again.',
			{ cause }
		);
	}
}
