/* Backups, restoring them, and verifying the data. */

export { backUp, backUpUseCases, backupWords, isBackupWanted, setBackupFolder } from './back-up.ts';
export { compact, returnFreedSpaceUseCases } from './return-freed-space.ts';
export { checkStanding, checkStandingUseCases, hasBrokenPages } from './check-standing.ts';
export { repairArchive, repairArchiveUseCases } from './repair-archive.ts';
export { restoreBackup } from './restore-backup.ts';
export { verify, type VerifyResult } from './verify-archive.ts';
