import { read } from '$app/server';
import arabic from '@fontsource/noto-sans-arabic/unicode.json';
import devanagari from '@fontsource/noto-sans-devanagari/unicode.json';
import hebrew from '@fontsource/noto-sans-hebrew/unicode.json';
import korean from '@fontsource/noto-sans-kr/unicode.json';
import chinese from '@fontsource/noto-sans-sc/unicode.json';
import thai from '@fontsource/noto-sans-thai/unicode.json';
import { type Face, facesFor, rangesOf } from '../../../core/message/script-faces.ts';

const FILES = import.meta.glob<string>(
	'/node_modules/@fontsource/noto-sans-{arabic,devanagari,hebrew,kr,sc,thai}/files/*-400-normal.woff2',
	{ query: '?url', import: 'default', eager: true }
);
/* Letters that the faces of the page itself have. */
const OWN = /^(latin|latin-ext|vietnamese|cyrillic|cyrillic-ext|greek|greek-ext)$/;

const FACES: Face[] = Object.entries({ arabic, hebrew, devanagari, thai, kr: korean, sc: chinese }).flatMap(
	([script, subsets]) =>
		Object.entries<string>(subsets).flatMap(([subset, written]) => {
			const name = `noto-sans-${script}`;
			const file =
				FILES[`/node_modules/@fontsource/${name}/files/${name}-${subset.replace(/[[\]]/g, '')}-400-normal.woff2`];
			return file === undefined || OWN.test(subset) ? [] : [{ file, written, ranges: rangesOf(written) }];
		})
);
/* A page with letters of every kind is shown with the faces of the first ones. */
const MOST_BYTES = 4_000_000;

/**
 * Puts the faces for the scripts that occur on a page into the page: a sandboxed frame has no origin, so that it cannot load
 * them. Text in Latin letters is returned as it is.
 *
 * @param page as `safeHtml` returns it
 */
export async function withScriptFaces(page: string): Promise<string> {
	let bytes = 0;
	const rules: string[] = [];
	for (const { file, written } of facesFor(page, FACES)) {
		const content = Buffer.from(await read(file).arrayBuffer());
		if ((bytes += content.length) > MOST_BYTES) break;
		rules.push(
			`@font-face{font-family:OtherScripts;src:url(data:font/woff2;base64,${content.toString('base64')})format('woff2');unicode-range:${written}}`
		);
	}
	return rules.length > 0 ? page.replace('<style>', () => `<style>${rules.join('')}`) : page;
}
