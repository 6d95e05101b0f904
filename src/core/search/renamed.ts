import { tagKey } from '../tags/names.ts';
import { nameKey } from '../weigh/roles.ts';
import { showCount } from '../weigh/units.ts';
import { placesIn, QueryError } from './query.ts';
import { quotedValue } from './quoted-value.ts';

/** A folder or a tag with a new path. What lies below it moved along. */
export interface Renamed {
	of: 'folder' | 'tag';
	from: string;
	to: string;
	/** What lies below it kept its path. */
	isAlone?: boolean;
}

/** How many standing decisions and saved searches named it, and name it by its new path since. */
export interface Followed {
	decisions: number;
	searches: number;
}

/** What followed, as a sentence; empty where nothing did. */
export function followedSentence({ decisions, searches }: Followed): string {
	const parts = [
		[decisions, 'standing decision'],
		[searches, 'saved search', 'saved searches']
	] as const;
	const named = parts.flatMap(([count, one, several = `${one}s`]) =>
		count === 0 ? [] : [`${showCount(count)} ${count === 1 ? one : several}`]
	);
	if (named.length === 0) return '';
	return `${named.join(' and ')} ${decisions + searches === 1 ? 'was' : 'were'} changed to the new name.`;
}

/** What followed, for the ledger; empty where nothing did. */
export const followedDetails = ({ decisions, searches }: Followed): Partial<Followed> => ({
	...(decisions > 0 && { decisions }),
	...(searches > 0 && { searches })
});

const namesOf = (path: string) => path.split('/').filter((name) => nameKey(name) !== '');
const KEY = { folder: (path: string) => namesOf(path).map(nameKey).join('/'), tag: tagKey };

/**
 * The new path of a folder or tag, by its old one.
 *
 * @returns undefined if it is not the renamed one, nor below it
 */
export function renamePath(path: string, { of, from, to, isAlone = false }: Renamed): string | undefined {
	const names = namesOf(path);
	const { length } = namesOf(from);
	if (isAlone && names.length > length) return undefined;
	if (KEY[of](names.slice(0, length).join('/')) !== KEY[of](from)) return undefined;
	return [to, ...names.slice(length)].join('/');
}

/* Whether a search for a name, or for its beginning, finds the folder or tag with that path. */
function finds(named: string, path: string, { of }: Renamed, begun: boolean): boolean {
	const [asked, there] = [KEY[of](named), KEY[of](path)];
	if (of === 'tag') return begun ? there.startsWith(asked) : `${there}/`.startsWith(`${asked}/`);
	if (!begun) return `/${there}`.endsWith(`/${asked}`);
	const names = there.split('/');
	return names.slice(-asked.split('/').length).join('/').startsWith(asked);
}

/* A search names a folder by the last names of its path, and perhaps one below it. */
function renameNamed(named: string, begun: boolean, renamed: Renamed): string | undefined {
	const { of, from, to } = renamed;
	if (begun) return finds(named, from, renamed, true) && !finds(named, to, renamed, true) ? to : undefined;
	if (of === 'tag') return renamePath(named, renamed);
	const names = namesOf(named);
	const old = namesOf(from);
	for (let shared = Math.min(names.length, old.length); shared > 0; shared--) {
		const since = renamePath([...old.slice(0, -shared), ...names].join('/'), renamed);
		if (since !== undefined) return finds(named, since, renamed, false) ? undefined : since;
	}
	return undefined;
}

/**
 * Rewrites a search, so that it finds after a rename what it found before.
 *
 * @param others the paths of all other folders or tags: where the search means one of those as well, it means both;
 *   undefined: they are not to be known, and it means both
 * @returns the search as it was where it does not name it
 */
export function renameInSearch(query: string, renamed: Renamed, others: readonly string[] | undefined): string {
	let since = query;
	try {
		// from the last one, so that the places of those before it stay
		for (const { kind, text, begun, at, end } of placesIn(query).reverse()) {
			const called = kind === renamed.of ? renameNamed(text, begun, renamed) : undefined;
			if (called === undefined) continue;
			const now = quotedValue(called, kind);
			// a beginning may be that of names still to come
			const meansOthers = begun || others === undefined || others.some((path) => finds(text, path, renamed, false));
			since = since.slice(0, at) + (meansOthers ? `(${query.slice(at, end)} or ${now})` : now) + since.slice(end);
		}
	} catch (error) {
		// a stored search that cannot be read finds nothing, and is left alone
		if (!(error instanceof QueryError)) throw error;
	}
	return since;
}
