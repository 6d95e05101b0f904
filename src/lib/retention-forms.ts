import { periodText } from '../core/retention/periods.ts';
import { type Disposition, type Terms, type Trigger, termsText } from '../core/retention/terms.ts';

/** A period in a form. */
export interface PeriodFields {
	count: number | undefined;
	unit: 'years' | 'months' | 'days';
}

/** The ISO 8601 text of the form's period; empty without a number. */
export function periodOfFields({ count, unit }: PeriodFields): string {
	if (!count || count < 1) return '';
	return periodText({ years: 0, months: 0, days: 0, [unit]: Math.floor(count) });
}

/** The form's terms, as one word; undefined if something is missing. */
export function termsOfFields(
	trigger: Trigger,
	disposition: Disposition,
	period: PeriodFields,
	archiveAfter: PeriodFields
): string | undefined {
	const read = (asked: PeriodFields) =>
		asked.count && asked.count >= 1
			? { years: 0, months: 0, days: 0, [asked.unit]: Math.floor(asked.count) }
			: undefined;
	const terms: Terms = {
		trigger,
		disposition,
		period: disposition === 'keep' ? undefined : read(period),
		archiveAfter: disposition === 'archive-destroy' ? read(archiveAfter) : undefined
	};
	const isWhole = disposition === 'keep' || (terms.period && (disposition !== 'archive-destroy' || terms.archiveAfter));
	return isWhole ? termsText(terms) : undefined;
}

/** The form for existing terms. */
export function fieldsOfPeriod(period: Terms['period']): PeriodFields {
	if (!period) return { count: undefined, unit: 'years' };
	if (period.days) return { count: period.days + period.months * 30 + period.years * 365, unit: 'days' };
	if (period.months) return { count: period.months + period.years * 12, unit: 'months' };
	return { count: period.years, unit: 'years' };
}
