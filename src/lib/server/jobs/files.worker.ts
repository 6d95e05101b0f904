import { constants, platform, setPriority } from 'node:os';
import { type FilesText, textOfFiles } from '../files/text-of-files.ts';

// as in parse.worker: a page that is asked for goes first
if (platform() === 'linux') setPriority(constants.priority.PRIORITY_LOW);

/** The words inside the files of a message, in a thread that can be ended. */
export default function read(bytes: Uint8Array): Promise<FilesText> {
	return textOfFiles(bytes);
}
