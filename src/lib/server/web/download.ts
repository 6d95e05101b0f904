import contentDisposition from 'content-disposition';

/** Bytes, or a stream of them, as a download: the browser never shows them itself, whatever type they claim. */
export function download({
	name,
	content
}: {
	name: string;
	content: Uint8Array | ReadableStream<Uint8Array>;
}): Response {
	return new Response(content as BodyInit, {
		headers: {
			'content-type': 'application/octet-stream',
			...(content instanceof Uint8Array ? { 'content-length': String(content.byteLength) } : {}),
			'content-disposition': contentDisposition(name),
			'content-security-policy':
				"default-src 'none'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'; sandbox",
			'cache-control': 'no-store'
		}
	});
}
