/* The daily round: one message at a time, one decision each. */

export { awaitAnswer, awaitedUseCases, listAwaited, returnAwaited, type Returned, someAwaited } from './awaited.ts';
export { closeThreadUseCases } from './close-thread.ts';
export { addPileRule, pileRuleUseCases } from './pile-rule.ts';
export { pilesUseCases, putOnPile } from './piles.ts';
export { type Bundle, decideAtDesk, deskUseCases, showDesk } from './desk.ts';
