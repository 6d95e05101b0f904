import { classNumber, RECORD_CLASSES, type RecordClass } from '../../../core/retention/classes.ts';

/** The numbers of classes, for statements. */
export const CLASS_NUMBERS = Object.fromEntries(RECORD_CLASSES.map((of) => [of, classNumber(of)])) as Record<
	RecordClass,
	number
>;

/** SQL that is true of an item under a hold. */
export const HELD = 'item.id IN (SELECT item_id FROM hold_item)';
/** SQL that is true of a record: nobody deletes it before its time. */
export const IS_RECORD = `item.class = ${CLASS_NUMBERS.record}`;
/** SQL that is true of an item whose period has ended by a day, and that is to be destroyed or looked at then. */
export const ENDED = `(item.due_action IN ('destroy', 'review') AND item.due_on <= ?)`;
