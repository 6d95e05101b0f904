/* The sealed lines: who did what, each chained to the one before. */

export { appendLedger, certificateHashes, checkLedger } from './ledger-store.ts';
export { readLedgerUseCases } from './read-ledger.ts';
