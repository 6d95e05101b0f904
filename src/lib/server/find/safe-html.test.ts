import { describe, expect, it } from 'vitest';
import { expectLinearTime } from '../testing/time.ts';
import { safeHtml } from './safe-html.ts';

const safe = (html: string, pictures: Record<string, string> = {}) =>
	safeHtml(html, async (id) => (pictures[id] ? { type: pictures[id], content: new Uint8Array([1, 2, 3]) } : undefined));

/* Attacks after the XSS filter evasion notes of OWASP (from memory). */
const HOSTILE = [
	'<script>x()</script>',
	'<img src=x onerror=x()>',
	'<svg onload=x()><script>x()</script></svg>',
	'<a href="javascript:x()">a</a>',
	'<a href="  java\nscript:x()">a</a>',
	'<a href="data:text/html,<script>x()</script>">a</a>',
	'<iframe src="https://evil.example"></iframe>',
	'<object data="x"></object><embed src="x">',
	'<form action="https://evil.example"><input name=a><button>go</button></form>',
	'<meta http-equiv="refresh" content="0;url=https://evil.example">',
	'<base href="https://evil.example/">',
	'<link rel="stylesheet" href="https://evil.example/x.css">',
	'<style>@import "https://evil.example/x.css"; body { background: url(https://evil.example/x) }</style>',
	'<p style="background: url(https://evil.example/x)">p</p>',
	'<p style="background-image: url(//evil.example/x); position: fixed; top: 0">p</p>',
	'<div style="width: expression(x())">d</div>',
	'<img src="https://evil.example/pixel.gif" srcset="https://evil.example/2.gif 2x">',
	'<img src="//evil.example/pixel.gif">',
	'<video src="https://evil.example/v"></video><audio src="https://evil.example/a"></audio>',
	'<table background="https://evil.example/x"><tr><td background="//evil.example/y">t</td></tr></table>',
	'<math><mtext><table><mglyph><style><img src=x onerror=x()>',
	'<noscript><p title="</noscript><img src=x onerror=x()>">',
	'<<script>script>x()<</script>/script>',
	'<img src="data:image/svg+xml;base64,PHN2ZyBvbmxvYWQ9YWxlcnQoKT4=">'
];

describe('safeHtml', () => {
	it.each(HOSTILE)('%s', async (html) => {
		const [, body = ''] = (await safe(html)).split('<body>');
		expect(body).not.toMatch(
			/<(script|style|iframe|object|embed|form|input|button|meta|base|link|svg|math|video|audio|noscript)\b/i
		);
		expect(body.replace(/="[^"]*"/g, '')).not.toMatch(/<[^>]*\son\w+\s*=/i);
		expect(body).not.toMatch(/(javascript|expression|url\s*\(|@import|srcset|background=|position)/i);
		expect(body).not.toMatch(/<img[^>]*src="(?!data:image\/(png|jpeg|gif|webp);)/i);
		expect(body).not.toMatch(/href="(?!https?:|mailto:|tel:|")/i);
	});

	/* What a link says beside its text; '': nothing, as it is no link, or says so itself. */
	it.each([
		['<a href="https://evil.example/x">https://bank.example</a>', 'evil.example'],
		['<a href="https://a.example/y">a.example</a>', ''],
		['<a href="https://a.example/y">https://a.example/y</a>', ''],
		['<a href="https://a.example/y?b=1&amp;c=2">https://a.example/y?b=1&amp;c=2</a>', ''],
		['<a href="mailto:b@c.example">write</a>', 'b@c.example'],
		['<a href="tel:+351123">call</a>', '+351123'],
		['<a href="https://bank.example@evil.example/">bank.example</a>', 'evil.example'],
		['<a href="https://bänk.example/">bänk.example</a>', 'xn--bnk-qla.example'],
		// hidden text
		['<a href="https://evil.example"><span style="font-size: 0px">evil.example</span>bank.example</a>', 'evil.example'],
		['<a href="https://evil.example">bank.example<font color="white"> evil.example</font></a>', 'evil.example'],
		['<a href="https://evil.example">bank.example/evil.example</a>', 'evil.example'],
		// other directions
		['<bdo dir="rtl"><a href="https://evil.example">evil.example</a></bdo>', ''],
		['\u202e<a href="https://elpmaxe.knab">elpmaxe.knab</a>', 'elpmaxe.knab'],
		// relative links
		['<a href="/m/1/bin">bank.example</a>', ''],
		['<a href="x">x</a>', ''],
		['<a href="//evil.example">x</a>', ''],
		['<a href="#top">top</a>', '']
	])('shows where links lead, unless that is all they say: %s', async (html, place) => {
		const [, body = ''] = (await safe(html)).split('<body>');
		expect(/<bdi class="leads-to" dir="ltr"> \[(.*?)\]<\/bdi>/.exec(body)?.[1] ?? '').toBe(place);
		expect(body).not.toMatch(/href="(?!https?:|mailto:|tel:)|<bdo/);
	});

	it('puts pictures of the message in, and names those from elsewhere', async () => {
		const html = await safe(
			'<img src="cid:p1" alt="One"><img src="cid:p2"><img src="https://x.example/p.png" alt="Far">',
			{ p1: 'image/png', p2: 'image/svg+xml' }
		);
		expect(html).toContain('<img src="data:image/png;base64,AQID" alt="One"');
		expect(html).toContain('picture not loaded: Far');
		expect(html).not.toContain('svg');
	});

	it('keeps what people write with', async () => {
		const html = await safe(
			'<h1 style="color: #24506b">Title</h1><ul><li><b>one</b></li></ul><table border="1"><tr><td colspan="2">x</td></tr></table><blockquote>q</blockquote>'
		);
		for (const kept of ['color:#24506b', '<li><b>one</b></li>', 'colspan="2"', '<blockquote>'])
			expect(html).toContain(kept);
	});

	it('stands a deep nesting', async () => {
		expect((await safe('<div>'.repeat(50_000))).length).toBeLessThan(20_000);
	});

	it('opens a megabyte of nested elements in a time that follows its length, with its words', async () => {
		const nested = (n: number) => `${'<div>'.repeat(n)}words${'</div>'.repeat(n)}`;
		const [small, large] = [nested(12_000), nested(96_000)];
		expect(await safe(large)).toContain('words');
		await expectLinearTime(
			() => safe(small),
			() => safe(large),
			8
		);
	});

	it('shows a picture as often as fits, and says so of the others: 4 MB shown 120 times', async () => {
		const content = Buffer.alloc(4_000_000, 7);
		const html = await safeHtml('<img src="cid:one" alt="Berth">'.repeat(120), async () => ({
			type: 'image/png',
			content
		}));
		expect(html.length).toBeLessThan(25_000_000);
		expect(html.match(/<img /g)).toHaveLength(3);
		expect(html.match(/picture shown too often to be shown again: Berth/g)).toHaveLength(117);
	});
});
