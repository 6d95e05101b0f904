/* The sealed lines: who did what, each chained to the one before. */

export { clockDoubt, clockUseCases, confirmClock, doubtInWords, noteClock, requireRightClock } from './clock.ts';
export { appendLedger, certificateHashes, checkLedger, hasLedger } from './ledger-store.ts';
export { readLedgerUseCases } from './read-ledger.ts';
