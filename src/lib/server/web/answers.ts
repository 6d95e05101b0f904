import { error } from '@sveltejs/kit';
import { refusalIn } from '../machine-trouble.ts';
import type { RefusalCode } from '../refusal.ts';

const STATUS: Record<RefusalCode, number> = {
	'not-found': 404,
	'bad-input': 400,
	changed: 409,
	'not-possible': 409,
	'no-writing': 507,
	damaged: 500,
	forbidden: 403,
	'too-many': 429
};

/** Awaits an answer; a refusal becomes an error page with its sentence. */
export async function answered<T>(answer: Promise<T>): Promise<T> {
	try {
		return await answer;
	} catch (cause) {
		const refusal = refusalIn(cause);
		if (refusal) error(STATUS[refusal.code], refusal.message);
		throw cause;
	}
}

/** Awaits an answer; a refusal becomes a value, for a form to show. */
export async function attempted<T>(answer: Promise<T>): Promise<{ done: T } | { refused: string; status: number }> {
	try {
		return { done: await answer };
	} catch (cause) {
		const refusal = refusalIn(cause);
		if (refusal) return { refused: refusal.message, status: STATUS[refusal.code] };
		throw cause;
	}
}
