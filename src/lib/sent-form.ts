import type { ActionResult, SubmitFunction } from '@sveltejs/kit';

/** Why the server refused a decision; undefined if it did not. */
export function refusalOf(result: ActionResult): string | undefined {
	if (result.type === 'failure') return String(result.data?.message ?? 'It could not be done. Nothing was drafted.');
	if (result.type === 'error')
		return 'The server did not answer as it should. Look whether it was done before you decide again.';
	return undefined;
}

/**
 * Shows the result of a form and keeps the focus: on a sheet one decision follows the other, and SvelteKit would move
 * the focus to the top.
 */
export async function showResultKeepingFocus(update: (options: { reset: boolean }) => Promise<void>): Promise<void> {
	let last: Element | null = document.activeElement;
	const onFocus = ({ target }: FocusEvent) => {
		if (target instanceof Element && target !== document.body) last = target;
	};
	document.addEventListener('focusin', onFocus);
	await update({ reset: false });
	document.removeEventListener('focusin', onFocus);
	if (last instanceof HTMLElement && last.isConnected) last.focus({ preventScroll: true });
}

/** What a page does around a decision that is sent. */
export interface Sending {
	/** It is on its way: the page shows what comes next. @returns puts that back */
	onSend?: (() => () => void) | undefined;
	onRefused: (message: string) => void;
	onDone?: (() => void) | undefined;
}

/** Sends a form whose result is shown before the server has said so, and undone where it refuses. */
export function sendAhead({ onSend, onRefused, onDone }: Sending): SubmitFunction {
	return () => {
		const putBack = onSend?.();
		return async ({ result, update }) => {
			const refused = refusalOf(result);
			if (refused !== undefined) {
				putBack?.();
				onRefused(refused);
				return;
			}
			await update({ reset: false });
			onDone?.();
		};
	};
}
