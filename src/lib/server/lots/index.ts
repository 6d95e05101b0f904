/* Lots and proposals. */

export { listLots, lotItems, lotsLines, lotsScope, lotsUseCases, type Sheet, type SheetRows } from './lots.ts';
export { findProposals, proposeUseCases } from './propose.ts';
export { listProposals, type Proposal, proposalItems, proposedWhere, showProposalsUseCases } from './show-proposals.ts';
