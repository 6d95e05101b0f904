/* Archiving, arranging, restoring; the bin and its emptying. */

export { archivingUseCases, setArchiving, setFinancialYear } from './archiving.ts';
export { binUseCases, emptyDueBins, listBin, type Night, prepareEmptying, setClearing } from './bin.ts';
export { archive } from './decisions/archive.ts';
export { arrange } from './decisions/arrange.ts';
export { toBin } from './decisions/delete.ts';
export { destroy } from './decisions/destroy.ts';
export { restore } from './decisions/restore.ts';
export {
	decideArchiving,
	prepareArchiving,
	prepareArchivingUseCases,
	prepareArranging,
	tryArchiving
} from './prepare-archiving.ts';
