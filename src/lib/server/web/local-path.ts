/** The path of an address on the same host as `here`, with its query; undefined for any other. */
export function localPathOf(address: string | null, here: URL): string | undefined {
	const from = address !== null && URL.canParse(address) ? new URL(address) : undefined;
	return from?.origin === here.origin ? from.pathname + from.search : undefined;
}

/** The path to go to after signing in: one of ours; anything else becomes the start page. */
export function localPath(asked: string | null): string {
	return asked !== null && /^\/(?![/\\])[^\s\\]*$/.test(asked) ? asked : '/';
}
