import { BLOCK_BYTES, hexOf, joinedHashes } from '../core/formats/tree-hash.ts';

/** A file with its path in the selection. */
export interface SelectedFile {
	file: File;
	path: string;
}

const PIECE_BYTES = BLOCK_BYTES;
const TRIES = 5;

const sha256 = async (bytes: BufferSource) => new Uint8Array(await crypto.subtle.digest('SHA-256', bytes));

/* The hash of a whole file, read block by block, with which the arrived file is compared. */
async function hashFile(file: File, signal: AbortSignal): Promise<string> {
	const hashes: Uint8Array[] = [];
	for (let at = 0; at < file.size; at += BLOCK_BYTES) {
		signal.throwIfAborted();
		hashes.push(await sha256(await file.slice(at, at + BLOCK_BYTES).arrayBuffer()));
	}
	return hexOf(await sha256(joinedHashes(hashes)));
}

async function said(answer: Response): Promise<Record<string, unknown>> {
	const body = (await answer.json().catch(() => ({}))) as Record<string, unknown>;
	if (!answer.ok)
		throw new Error(typeof body.message === 'string' ? body.message : `The server answered ${answer.status}.`);
	return body;
}

/* A failed piece is sent again from the end of the file on the server. */
async function sendFile(
	address: string,
	file: File,
	signal: AbortSignal,
	onSent: (bytes: number) => void
): Promise<void> {
	let offset = 0;
	for (let tries = 0; offset < file.size || file.size === 0;) {
		try {
			const body = file.slice(offset, offset + PIECE_BYTES);
			const { arrived } = await said(
				await fetch(`${address}?offset=${offset}`, {
					method: 'PUT',
					body,
					signal,
					headers: { 'content-type': 'application/octet-stream' }
				})
			);
			onSent(Number(arrived) - offset);
			offset = Number(arrived);
			tries = 0;
			if (file.size === 0) return;
		} catch (error) {
			if (signal.aborted || ++tries >= TRIES) throw error;
			await new Promise((resolve) => setTimeout(resolve, 400 * 2 ** tries));
			const arrived = await fetch(address, { signal })
				.then(said)
				.catch(() => undefined);
			if (arrived) {
				onSent(Number(arrived.arrived) - offset);
				offset = Number(arrived.arrived);
			}
		}
	}
}

/** JSON as a body that is packed: the names and the hashes of a large folder are megabytes. */
export async function packedJson(value: unknown): Promise<Blob> {
	const packed = new Blob([JSON.stringify(value)]).stream().pipeThrough(new CompressionStream('gzip'));
	return new Blob([await new Response(packed).arrayBuffer()], { type: 'application/gzip' });
}

/**
 * Uploads files and starts their import.
 *
 * @param onProgress told the bytes sent so far
 * @returns the number of the job that brings them in
 */
export async function upload(
	plan: { mailbox: string; folder: string; source: string },
	files: readonly SelectedFile[],
	signal: AbortSignal,
	onProgress: (bytes: number) => void
): Promise<number> {
	const begun = await said(
		await fetch('/uploads', {
			method: 'POST',
			signal,
			body: await packedJson({
				...plan,
				files: files.map(({ file, path }) => ({ path, bytes: file.size, modified: Math.max(0, file.lastModified) }))
			})
		})
	);
	let sent = 0;
	const queue = [...files.entries()];
	const hashes: string[] = [];
	const send = async () => {
		for (let next = queue.shift(); next; next = queue.shift()) {
			const [index, { file }] = next;
			const sending = sendFile(`/uploads/${String(begun.id)}/${index}`, file, signal, (bytes) =>
				onProgress((sent += bytes))
			);
			[hashes[index]] = await Promise.all([hashFile(file, signal), sending]);
		}
	};
	await Promise.all([send(), send(), send(), send()]);
	const ended = await fetch(`/uploads/${String(begun.id)}`, {
		method: 'POST',
		signal,
		body: await packedJson({ hashes })
	});
	return Number((await said(ended)).job);
}

/* Reads dropped folders; the browser returns their entries some at a time. */
async function entryFiles(entry: FileSystemEntry, path: string): Promise<SelectedFile[]> {
	if (entry.isFile) {
		const file = await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject));
		return [{ file, path: path + entry.name }];
	}
	const reader = (entry as FileSystemDirectoryEntry).createReader();
	const found: SelectedFile[] = [];
	for (;;) {
		const entries = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
		if (entries.length === 0) return found;
		for (const inner of entries) found.push(...(await entryFiles(inner, `${path}${entry.name}/`)));
	}
}

/** The files of a drop. */
export async function droppedFiles(transfer: DataTransfer): Promise<SelectedFile[]> {
	const entries = [...transfer.items].map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null);
	const found: SelectedFile[] = [];
	for (const entry of entries) found.push(...(await entryFiles(entry, '')));
	return found;
}

/** The files of an input; those of a folder keep their paths. */
export function inputFiles(list: FileList): SelectedFile[] {
	return [...list].map((file) => ({ file, path: file.webkitRelativePath || file.name }));
}
