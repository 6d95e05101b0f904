import { type FilesText, textOfFiles } from './text-of-files.ts';
import { letOthersGoFirst } from '../priority.ts';

letOthersGoFirst(19);

/** The words inside the files of a message, in a thread that can be ended. */
export default function read(bytes: Uint8Array): Promise<FilesText> {
	return textOfFiles(bytes);
}
