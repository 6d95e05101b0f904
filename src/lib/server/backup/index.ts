/* Backups, restoring them, and verifying the data. */

export { backUp, backUpUseCases, backupWords, isBackupWanted, setBackupFolder } from './back-up.ts';
export { restoreBackup } from './restore-backup.ts';
export { verifyArchive, verifyArchiveUseCases, type VerifyResult } from './verify-archive.ts';
