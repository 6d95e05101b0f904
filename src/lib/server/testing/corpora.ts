import { existsSync, readdirSync } from 'node:fs';
import path from 'node:path';

/* Real mail from Debian's packages (tools/test.js fetches them): read in tests, never committed. */

const files = path.resolve('.cache/corpora/files');

/** The corpora by name, as folders of files. */
export const CORPORA = {
	lists: path.join(files, 'usr/share/gocode/src/github.com/gatherstars-com/jwz/test/testdata'),
	python: path.join(files, 'usr/lib/python3.11/test/test_email/data'),
	enmime: path.join(files, 'usr/share/gocode/src/github.com/jhillyerd/enmime/testdata')
};

/** All files of a corpus. @throws Error that says how to get it */
export function corpusFiles(corpus: keyof typeof CORPORA): string[] {
	const folder = CORPORA[corpus];
	if (!existsSync(folder))
		throw new Error(`The corpus "${corpus}" is not in .cache/corpora; "npm test" fetches it once, with a network.`);
	const entries = readdirSync(folder, { recursive: true, withFileTypes: true });
	return entries
		.filter((entry) => entry.isFile())
		.map((entry) => path.join(entry.parentPath, entry.name))
		.sort();
}
