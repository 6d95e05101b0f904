import { hash, verify } from '@node-rs/argon2';

/* Argon2id (the default of the library) with 19 MiB, two passes, one lane: OWASP Password Storage Cheat Sheet. */
const COSTS = { memoryCost: 19_456, timeCost: 2, parallelism: 1 };

/** The hash of a password. */
export function hashPassword(password: string): Promise<string> {
	return hash(password.normalize('NFKC'), COSTS);
}

let nobodys: Promise<string> | undefined;

/** Whether the password is right. Takes the same time for an unknown address, which must not be detectable. */
export async function isPassword(kept: string | null, password: string): Promise<boolean> {
	nobodys ??= hashPassword('nobody has this password');
	const same = await verify(kept ?? (await nobodys), password.normalize('NFKC')).catch(() => false);
	return kept !== null && same;
}

/** OWASP ASVS 4.0.3, 2.1.1 and 2.1.2. */
const LEAST_CHARACTERS = 12;
const MOST_CHARACTERS = 128;

/* Loaded with its word lists at the first new password, as few processes need it. */
async function loadGuessing() {
	const [{ zxcvbn, zxcvbnOptions }, { adjacencyGraphs, dictionary }] = await Promise.all([
		import('@zxcvbn-ts/core'),
		import('@zxcvbn-ts/language-common')
	]);
	zxcvbnOptions.setOptions({ dictionary, graphs: adjacencyGraphs });
	return zxcvbn;
}
let guessing: ReturnType<typeof loadGuessing> | undefined;

/**
 * The fault of a password, by OWASP ASVS 4.0.3, 2.1: 12 to 128 characters of any kind, no rules of composition, none
 * from lists of leaked passwords, none that is the person's own name or address.
 *
 * @returns a sentence; undefined where it is good
 */
export async function wrongWithPassword(password: string, about: readonly string[]): Promise<string | undefined> {
	const characters = [...password].length;
	if (characters < LEAST_CHARACTERS)
		return `A password has at least ${LEAST_CHARACTERS} characters; a few words do well.`;
	if (characters > MOST_CHARACTERS) return `A password has at most ${MOST_CHARACTERS} characters.`;
	const words = [
		...about,
		...about.flatMap((text) => [text.replace(/\s+/g, ''), ...text.split(/[\s@.]+/)]),
		'kovrel'
	].filter((word) => word.length > 2);
	guessing ??= loadGuessing();
	const { score } = (await guessing)(password, words);
	return score < 3
		? 'That password is easily guessed: it is well known, or made of names and neighbouring keys.'
		: undefined;
}
