/* Mail coming in: files, uploads, parsing, placing, words inside attachments. */

export { listSource } from './containers.ts';
export { closeFilesPool } from './files-pool.ts';
export { importMailbox, importMailboxUseCases } from './import-mailbox.ts';
export { importsUseCases } from './imports.ts';
export { readSource } from './mail-files.ts';
export { placeNewMail } from './place-mail.ts';
export { readFiles, readFilesUseCases } from './read-files.ts';
export { arrivedBytes, beginUpload, finishUpload, takePiece, type UploadPlan } from './uploads.ts';
