import type { FolderRole } from './roles.ts';
/** Messages and their bytes. */
export interface Weight {
	messages: number;
	bytes: number;
}

/** A folder as it is stored. */
export interface FolderPlace {
	id: number;
	parentId: number | null;
	name: string;
	path: string;
	role: FolderRole | null;
	/** 1: its mail and that of its subfolders is never archived (invariant 16). */
	neverArchived: number;
}

/** A folder with its own weight, and with that of its subfolders included. */
export interface FolderWeight extends FolderPlace, Weight {
	depth: number;
	messagesBelow: number;
	bytesBelow: number;
	/** Position among folders of the same parent decides; parents stand before their children. */
}

/* In the order in which mail passes through them; folders without a role come at ''. */
const ROLES = ['inbox', 'drafts', 'sent', 'archive', '', 'junk', 'trash'];

function byRoleThenName(a: FolderPlace, b: FolderPlace): number {
	const rank = (folder: FolderPlace) => ROLES.indexOf(folder.role ?? '');
	return rank(a) - rank(b) || a.name.localeCompare(b.name, 'en') || a.id - b.id;
}

const MOST_LEVELS = 64;

/** The path of a folder that somebody else named, who may name thousands of levels: a folder below 64 is the last of them. */
export const shallow = (path: string): string => path.split('/', MOST_LEVELS).join('/');

/**
 * Sums a folder tree.
 *
 * @param folders all folders of one tree
 * @param own what lies in each folder itself, by its id
 * @returns the folders in the order of the tree, parents before their children
 */
export function sumTree(folders: readonly FolderPlace[], own: ReadonlyMap<number, Weight>): FolderWeight[] {
	const children = new Map<number | null, FolderPlace[]>();
	for (const folder of folders) {
		const siblings = children.get(folder.parentId) ?? [];
		siblings.push(folder);
		children.set(folder.parentId, siblings);
	}
	const rows: FolderWeight[] = [];
	const visit = (folder: FolderPlace, depth: number): Weight => {
		const { messages = 0, bytes = 0 } = own.get(folder.id) ?? {};
		const row: FolderWeight = { ...folder, depth, messages, bytes, messagesBelow: messages, bytesBelow: bytes };
		rows.push(row);
		for (const child of (children.get(folder.id) ?? []).sort(byRoleThenName)) {
			const below = visit(child, depth + 1);
			row.messagesBelow += below.messages;
			row.bytesBelow += below.bytes;
		}
		return { messages: row.messagesBelow, bytes: row.bytesBelow };
	};
	for (const root of (children.get(null) ?? []).sort(byRoleThenName)) visit(root, 0);
	return rows;
}
