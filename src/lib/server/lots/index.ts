/* Lots and proposals. */

export { decideProposalsUseCases } from './decide-proposals.ts';
export { listLots, type LotItem, lotItems, lotsLines, lotsUseCases, type Sheet, type SheetRows } from './lots.ts';
export { findProposals, proposeUseCases } from './propose.ts';
export { listProposals, type Proposal, proposalItems, showProposalsUseCases } from './show-proposals.ts';
