import contentDisposition from 'content-disposition';

/** Bytes as a download: never shown by the browser itself, whatever they claim to be. */
export function download({ name, content }: { name: string; content: Uint8Array }): Response {
	return new Response(content as Uint8Array<ArrayBuffer>, {
		headers: {
			'content-type': 'application/octet-stream',
			'content-length': String(content.byteLength),
			'content-disposition': contentDisposition(name),
			'content-security-policy': "default-src 'none'; sandbox",
			'cache-control': 'no-store'
		}
	});
}
