import { destruction, type ItemWork } from '../../docket/index.ts';

/** Out of the bin, for good. */
export const destroy: ItemWork = { about: 'messages', change: destruction };
