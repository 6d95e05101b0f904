import { generate } from 'selfsigned';

/** A certificate of a name with its key, both PEM, which stands for itself. */
export async function certificateFor(name: string): Promise<{ cert: string; key: string }> {
	const made = await generate([{ name: 'commonName', value: name }], {
		keySize: 2048,
		algorithm: 'sha256',
		extensions: [
			{ name: 'basicConstraints', cA: true },
			{ name: 'subjectAltName', altNames: [{ type: 2, value: name }] }
		]
	});
	return { cert: made.cert, key: made.private };
}
