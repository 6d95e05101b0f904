/* The running program: threads, queue, use cases by name, scheduled runs, start and end. */

export { printFirstLink } from './first-start.ts';
export { type Frame } from './frame.ts';
export { letDaysPass, type NightRun, runNight } from './night.ts';
export { runEveryNight } from './nightly.ts';
export { closeOffice, dataFolder, Office, theOffice } from './office.ts';
export { openContext, openUpToDate, prepareDataFolder } from './open-context.ts';
export { type JobStatus } from './queue.ts';
export { type ChangeName, type InputOf, type OutputOf } from './use-cases.ts';
export type { FirstSteps } from './first-steps.ts';
