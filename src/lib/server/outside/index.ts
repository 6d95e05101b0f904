/* What Kovrel asks of the world outside: requests to lists, outgoing mail. */

export { openOutside, type Outside, type OutsideAnswer } from './outside.ts';
export { type StandIns } from './stand-ins.ts';
