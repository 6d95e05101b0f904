/* The data file: opening, copying, transactions, migrations, composing SQL. */

export { holdDataFolder } from './server-lock.ts';
export { setOfItem } from './item-sum.ts';
export { alone, checkDatabase, copyDatabase, CopyStopped, flush, isInUse, leaveAlone, repairIndexes } from './copy.ts';
export { DATA_ID, hasDataFile, makeDataFile, newDataId, readMark, rollBack, writeMark } from './data-folder.ts';
export { networkDrive } from './drives.ts';
export { freedSpace, type FreedSpace, shorten, writeAnew } from './freed-space.ts';
export {
	changeNumber,
	databaseFile,
	type Db,
	inSnapshot,
	inTransaction,
	isUpToDate,
	letWrite,
	migrate,
	openDatabase,
	withSmallCache
} from './open.ts';
export { finishPuttingInPlace, noteReady, workplaceOf } from './put-in-place.ts';
export { asRaw, change, idOf, insertRows, isBrokenPage, row, rows } from './rows.ts';
export { getSetting, putSetting } from './settings-store.ts';
export { refreshStatistics } from './statistics.ts';
export {
	all,
	type Condition,
	empty,
	inList,
	join,
	literal,
	not,
	type Range,
	raw,
	type Sql,
	sql,
	within
} from './sql.ts';
