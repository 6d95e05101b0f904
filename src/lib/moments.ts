import { showDate } from '../core/calendar.ts';

const two = (n: number) => String(n).padStart(2, '0');

/** An instant in this browser's time zone: `4 Mar 2024, 09:15`. */
export function showMoment(iso: string | null | undefined): string {
	if (!iso) return '';
	const at = new Date(iso);
	return `${showDate(`${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`)}, ${two(at.getHours())}:${two(at.getMinutes())}`;
}
