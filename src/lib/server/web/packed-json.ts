import { gunzipSync } from 'node:zlib';

/* The plan of 200,000 files; a body of the largest size could unpack to eight gigabytes. */
const MOST_BYTES = 100_000_000;

/** The JSON of a request, which may be packed (`packedJson` of lib/upload); undefined: it is none, or too large. */
export async function readPackedJson(request: Request): Promise<unknown> {
	try {
		const body = Buffer.from(await request.arrayBuffer());
		const isPacked = request.headers.get('content-type') === 'application/gzip';
		return JSON.parse((isPacked ? gunzipSync(body, { maxOutputLength: MOST_BYTES }) : body).toString()) as unknown;
	} catch {
		return undefined;
	}
}
