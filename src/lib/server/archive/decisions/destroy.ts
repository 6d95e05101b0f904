import { destruction } from '../../docket/changes/destruction.ts';
import type { ItemWork } from '../../docket/decision-work.ts';

/** Out of the bin, for good. */
export const destroy: ItemWork = { about: 'messages', change: destruction };
