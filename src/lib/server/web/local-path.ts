/** The path to go to after signing in: one of ours; anything else becomes the start page. */
export function localPath(asked: string | null): string {
	return asked !== null && /^\/(?![/\\])[^\s\\]*$/.test(asked) ? asked : '/';
}
