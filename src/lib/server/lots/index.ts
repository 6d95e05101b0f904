/* Lots and proposals. */

export { decideProposalsUseCases } from './decide-proposals.ts';
export { listLots, type LotItem, lotItems, lotsLines, lotsUseCases, type Sheet, type SheetRows } from './lots.ts';
export { findProposals, listProposals, type Proposal, proposalItems, proposeUseCases } from './propose.ts';
