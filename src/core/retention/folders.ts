import type { CalendarDate } from '../calendar.ts';
import { nameKey } from '../weigh/roles.ts';
import { type ClassWord, type RecordClass, UNCLASSED } from './classes.ts';

/** The retention settings of a folder. */
export interface RetainedFolder {
	id: number;
	parentId: number | null;
	name: string;
	path: string;
	retentionId: number | null;
	class: ClassWord | null;
	closedOn: CalendarDate | null;
}

/** The settings for all folders of a name, in all mailboxes. */
export interface NamedRetention {
	name: string;
	retentionId: number | null;
	class: ClassWord | null;
}

/** The origin of a folder's retention. */
export type Source =
	| { kind: 'own' }
	/** Its name decides, as nothing is set on the folder. */
	| { kind: 'named'; name: string }
	| { kind: 'inherited'; path: string }
	| { kind: 'default' }
	| { kind: 'class'; name: string };

/** The effective retention of a folder. */
export interface Governed {
	retentionId: number | undefined;
	/** Undefined if nothing applies. */
	source: Source | undefined;
	class: ClassWord;
	/** Whether that class is protected as records. */
	isRecord: boolean;
	classSource: Source | undefined;
	closedOn: CalendarDate | undefined;
}

/** The defaults for folders without settings. */
export interface Defaults {
	/** The mailbox's default. */
	retentionId: number | undefined;
	/** The classes of the office, with the period that each gives. */
	classes: readonly RecordClass[];
}

interface Held<T> {
	value: T;
	path: string;
	named: string | undefined;
}

/**
 * The effective retention of each folder: its own, else that of its name, else what it inherits, else the mailbox's
 * default, else the policy's for its class (invariant 8).
 */
export function governFolders(
	folders: readonly RetainedFolder[],
	names: readonly NamedRetention[],
	defaults: Defaults
): Map<number, Governed> {
	const byId = new Map(folders.map((folder) => [folder.id, folder]));
	const byWord = new Map(defaults.classes.map((of) => [of.word, of]));
	const byName = new Map(names.map((named) => [nameKey(named.name), named]));
	const known = new Map<number, { retention?: Held<number>; class?: Held<ClassWord>; closedOn?: CalendarDate }>();

	const heldBy = (folder: RetainedFolder, above: Set<number>): NonNullable<ReturnType<typeof known.get>> => {
		const before = known.get(folder.id);
		if (before) return before;
		const parent = folder.parentId === null ? undefined : byId.get(folder.parentId);
		// folder trees have no loops; if one arose, this would still end
		const from = parent && !above.has(parent.id) ? heldBy(parent, new Set([...above, folder.id])) : {};
		const named = byName.get(nameKey(folder.name));
		const held = <T>(
			own: T | null,
			ofName: T | null | undefined,
			inherited: Held<T> | undefined
		): Held<T> | undefined => {
			if (own !== null) return { value: own, path: folder.path, named: undefined };
			if (ofName != null) return { value: ofName, path: folder.path, named: named?.name };
			return inherited;
		};
		const retention = held(folder.retentionId, named?.retentionId, from.retention);
		const recordClass = held(folder.class, named?.class, from.class);
		const closedOn = folder.closedOn ?? from.closedOn;
		const found = {
			...(retention && { retention }),
			...(recordClass && { class: recordClass }),
			...(closedOn !== undefined && { closedOn })
		};
		known.set(folder.id, found);
		return found;
	};

	const sourceOf = (folder: RetainedFolder, held: Held<unknown> | undefined): Source | undefined => {
		if (!held) return undefined;
		if (held.path !== folder.path) return { kind: 'inherited', path: held.path };
		return held.named === undefined ? { kind: 'own' } : { kind: 'named', name: held.named };
	};

	return new Map(
		folders.map((folder) => {
			const { retention, class: held, closedOn } = heldBy(folder, new Set());
			const recordClass = held?.value ?? UNCLASSED;
			const ofClass = byWord.get(recordClass);
			const governed: Governed = {
				retentionId: retention?.value ?? defaults.retentionId ?? ofClass?.retentionId ?? undefined,
				source:
					sourceOf(folder, retention) ??
					(defaults.retentionId !== undefined
						? { kind: 'default' }
						: ofClass && ofClass.retentionId !== null
							? { kind: 'class', name: ofClass.name }
							: undefined),
				class: recordClass,
				isRecord: ofClass?.isProtected ?? false,
				classSource: sourceOf(folder, held),
				closedOn
			};
			return [folder.id, governed];
		})
	);
}
