/* Requests to the outside: to lists, and outgoing mail. */

export { openOutside, type Outside, type OutsideAnswer } from './outside.ts';
export { type StandIns } from './stand-ins.ts';
