import { enhance as enhanceForm } from '$app/forms';
import type { SubmitFunction } from '@sveltejs/kit';

/**
 * SvelteKit's `enhance`, with a sign on the form and on the button that was pressed while the server works on it: what was
 * sent may wait for a batch of a docket.
 *
 * @param submit as for SvelteKit's
 */
export function enhance(form: HTMLFormElement, submit?: SubmitFunction): { destroy(): void } {
	return enhanceForm(form, async (input) => {
		const marked = [form, input.submitter].filter((element) => element !== null);
		const mark = (isBusy: boolean) => {
			for (const element of marked) element.toggleAttribute('data-busy', isBusy);
		};
		let isCancelled = false;
		const cancel = () => {
			isCancelled = true;
			input.cancel();
		};
		const after = await submit?.({ ...input, cancel });
		mark(!isCancelled);
		return async (outcome) => {
			try {
				await (after ? after(outcome) : outcome.update());
			} finally {
				mark(false);
			}
		};
	});
}
