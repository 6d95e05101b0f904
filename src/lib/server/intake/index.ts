/* Mail coming in: files, uploads, parsing, placing, words inside attachments. */

export { listSource } from './containers.ts';
export { asFarAsItGoes, inBatches, oneAhead } from './batches.ts';
export { followNewMail, importMailbox, importMailboxUseCases } from './import-mailbox.ts';
export { addImport, endImport, getImportCounts, hasOtherImports } from './imports-store.ts';
export { importsUseCases } from './imports.ts';
export { type Piece, readSource } from './mail-files.ts';
export { parsePieces } from './parse-pieces.ts';
export { placeNewMail } from './place-mail.ts';
export { type StoredPiece, storeBatch, type Target } from './store-pieces.ts';
export { filesWait, readFiles, readFilesUseCases } from './read-files.ts';
export { arrivedBytes, beginUpload, finishUpload, takePiece, type UploadPlan } from './uploads.ts';
