/* What weighs a mailbox, and what would free it. */

export { clearingUseCases, type FinishLine, type FreedSoFar } from './clearing.ts';
export { listWeights, type MailboxWeight, type Weighing, weighMailbox, weighUseCases } from './weigh.ts';
