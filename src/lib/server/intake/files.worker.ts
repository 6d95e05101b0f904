import { type FilesText, textOfFiles } from './text-of-files.ts';
import { lowerPriority } from '../priority.ts';

lowerPriority(19);

/** Reads the words inside the files of a message, in a thread that can be stopped. */
export default function read(bytes: Uint8Array): Promise<FilesText> {
	return textOfFiles(bytes);
}
