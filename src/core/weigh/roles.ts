/** What a folder is for (RFC 6154). */
export type FolderRole = 'inbox' | 'sent' | 'drafts' | 'junk' | 'trash' | 'archive';

/* Plain words for the roles, as folders are called where no server says so (common practice). A language is a line. */
const NAMES: Record<FolderRole, string[]> = {
	inbox: ['inbox', 'posteingang', 'boite de reception', 'bandeja de entrada'],
	sent: ['sent', 'sent mail', 'sent messages', 'sent items', 'gesendet', 'envoyes', 'enviados'],
	drafts: ['drafts', 'draft', 'entwurfe', 'brouillons', 'borradores'],
	junk: ['junk', 'spam', 'junk mail', 'bulk mail'],
	trash: ['trash', 'bin', 'deleted', 'deleted messages', 'deleted items', 'papierkorb', 'corbeille', 'papelera'],
	archive: ['archive', 'archives']
};

const BY_NAME = new Map(
	Object.entries(NAMES).flatMap(([role, names]) => names.map((name) => [name, role as FolderRole] as const))
);

/** A name as it is compared: without regard to case, accents and surrounding blanks. */
export function nameKey(name: string): string {
	return name
		.normalize('NFKD')
		.replace(/\p{M}+/gu, '')
		.toLowerCase()
		.replace(/\s+/g, ' ')
		.trim();
}

/** The role of a top-level folder, by its name; null where it has none. */
export function roleOf(name: string): FolderRole | null {
	return BY_NAME.get(nameKey(name)) ?? null;
}
