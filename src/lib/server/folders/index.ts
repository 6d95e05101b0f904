/* The folders of a mailbox: created, renamed, merged, divided, paused. */

export {
	endPause,
	folderPerYear,
	foldersUseCases,
	makeFolder,
	mergeFolder,
	pauseFolder,
	removeFolders,
	renameFolder,
	setFolderArchiving
} from './folders.ts';
