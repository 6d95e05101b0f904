import { convert } from 'html-to-text';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { expectLinearTime } from '../../lib/server/testing/time.ts';
import { textOfHtml } from './body.ts';
import { boundHtml, DEEPEST, LONGEST_HTML } from './bound-html.ts';

describe('HTML before any parser sees it', () => {
	it.each([
		['<p>One<p>Two<p>Three', '<p>One<p>Two<p>Three'],
		['a<br>b<img src=x>c', 'a<br>b<img src=x>c'],
		['a<!-- <b>no</b> -->b', 'ab'],
		['a<!-- never ends', 'a never ends'],
		['a<!-->b<!--->c<!-- d -->e', 'abce'],
		['<noscript>a</noscript>', '<noscript>a</noscript>'],
		['a<svg>b', 'ab'],
		['a<script>if (1 < 2) x()</script>b', 'ab'],
		['a<style>p{}</STYLE >b', 'ab'],
		['3 < 4 and 5 > 4', '3 &lt; 4 and 5 > 4'],
		['<a title="x > y" href=\'z\'>t</a>', '<a title="x > y" href=\'z\'>t</a>'],
		['</b>never begun</p>', 'never begun'],
		['<!doctype html><?xml x?><b>t</b>', '<b>t</b>'],
		[`<b ${'a="b" '.repeat(3_000)}>t</b>`, '<b>t</b>'],
		['a<b', 'a'],
		['', '']
	])('%j becomes %j', (html, expected) => {
		expect(boundHtml(html)).toEqual({ html: expected, isWhole: true });
	});

	it('keeps the text of what is nested too deep, and its tags up to there', () => {
		const deep = `${'<div>'.repeat(5_000)}deep${'</div>'.repeat(5_000)}<b>after</b>`;
		const { html } = boundHtml(deep);
		expect(html.match(/<div>/g)).toHaveLength(DEEPEST);
		expect(html.match(/<\/div>/g)).toHaveLength(DEEPEST);
		expect(html).toContain('deep');
		expect(html).toContain('<b>after</b>');
		expect(textOfHtml(deep)).toMatch(/deep\s+after/);
	});

	it('does not take elements whose end may be left out for nested ones', () => {
		const rows = Array.from({ length: 2_000 }, (_, n) => `<tr><td>${n}<td><a href="x${n}">link</a>`).join('');
		expect(boundHtml(`<table>${rows}</table>`).html.match(/<a /g)).toHaveLength(2_000);
	});

	it('says where the end was left out', () => {
		expect(boundHtml('x'.repeat(LONGEST_HTML + 1))).toMatchObject({ isWhole: false });
	});

	it('gives a parser the same text, over generated HTML', () => {
		const name = fc.constantFrom('p', 'div', 'b', 'td', 'tr', 'table', 'li', 'ul', 'span', 'blockquote', 'a', 'br');
		const piece = fc.oneof(
			name.map((tag) => `<${tag}>`),
			name.map((tag) => `</${tag}>`),
			fc.stringMatching(/^[a-z]{1,6} $/),
			fc.constantFrom('<!-- x -->', '&amp;', '"', "'")
		);
		const words = (html: string) => convert(html, { wordwrap: false }).match(/[a-z]+/g) ?? [];
		fc.assert(
			fc.property(fc.array(piece, { maxLength: 60 }), (pieces) => {
				const html = pieces.join('');
				expect(words(boundHtml(html).html)).toEqual(words(html));
			}),
			{ numRuns: 400 }
		);
	});

	/* Reading time is linear: twice the length takes about twice as long, far from four times. */
	it.each([
		['nested elements', (n: number) => '<div>'.repeat(n) + 'x' + '</div>'.repeat(n)],
		['elements that never end', (n: number) => '<font>'.repeat(2 * n)],
		['ends that never began', (n: number) => '</b>'.repeat(2 * n)],
		['quotes that never end', (n: number) => '<a href="'.repeat(n)],
		['signs', (n: number) => '<'.repeat(10 * n)],
		['comments that never end', (n: number) => '<!--'.repeat(2 * n)],
		['scripts that never end', (n: number) => '<script>'.repeat(n)],
		['pictures that never end', (n: number) => '<svg><math><template>'.repeat(n)],
		['siblings', (n: number) => '<div>x</div>'.repeat(n)],
		['attributes', (n: number) => `<b ${'a="b" '.repeat(2 * n)}>x</b>`]
	])('is read in a time that follows its length: %s', async (_what, make) => {
		const [small, large] = [make(10_000), make(80_000)];
		await expectLinearTime(
			() => textOfHtml(small),
			() => textOfHtml(large),
			8
		);
	});
});
