/* Backups, restoring them, and checking what is stored. */

export { backUp, backUpUseCases, backupWords, isBackupWanted, setBackupFolder } from './back-up.ts';
export { restoreBackup } from './restore-backup.ts';
export { verifyArchive, verifyArchiveUseCases, type VerifyResult } from './verify-archive.ts';
