/** Where somebody goes on to after coming in: a path of ours; anything else is the beginning. */
export function localPath(asked: string | null): string {
	return asked !== null && /^\/(?![/\\])[^\s\\]*$/.test(asked) ? asked : '/';
}
