/** The role of a folder (RFC 6154). */
export type FolderRole = 'inbox' | 'sent' | 'drafts' | 'junk' | 'trash' | 'archive';

/* Usual folder names of the roles, for folders whose server does not say (common practice). One line a language. */
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

/** A name in the form that is compared: without case, accents and surrounding blanks. */
export function nameKey(name: string): string {
	return name
		.normalize('NFKD')
		.replace(/\p{M}+/gu, '')
		.toLowerCase()
		.replace(/\s+/g, ' ')
		.trim();
}

/** The role of a top-level folder by its name; null if it has none. */
export function roleOf(name: string): FolderRole | null {
	return BY_NAME.get(nameKey(name)) ?? null;
}
