import type { Page } from '@playwright/test';

declare global {
	interface Window {
		/* The page's stream of what jobs do. */
		events?: EventSource;
	}
}

/** Keeps the page's stream of events, for {@link lostWhenAJobEnds} to send one: a script for each new page. */
export function keepEvents(): void {
	window.EventSource = class extends EventSource {
		constructor(address: string | URL) {
			super(address);
			window.events = this;
		}
	};
}

/* Fills in, ticks, selects and opens what a page offers, as a person does before sending it. */
const enterEverything = (page: Page) =>
	page.evaluateHandle(async () => {
		const FIELDS = `main form[method=post] :is(input:not([type=hidden]), select, textarea), main details, tr[draggable],
			main :is(input, textarea):not([type=hidden], [type=search]), tbody input[type=checkbox]`;
		const drawn = () => new Promise((resolve) => requestAnimationFrame(() => setTimeout(resolve)));
		const isTicked = (field: Element) => field.matches('[type=checkbox], [type=radio]');
		const shown = () =>
			[...document.querySelectorAll<HTMLInputElement>(FIELDS)].filter(
				(field) => field.checkVisibility() && !field.matches(':disabled, [readonly], [type=file], [type=color]')
			);
		// a form that is sent with a choice is not sent
		HTMLFormElement.prototype.requestSubmit = () => undefined;
		for (const menu of document.querySelectorAll<HTMLDetailsElement>('main details')) menu.open = true;
		document.querySelector<HTMLElement>('tr[draggable]')?.click();
		await drawn();
		for (const field of shown()) {
			if (isTicked(field)) field.checked = !field.checked;
			else if (field.matches('select')) field.value = [...field.querySelectorAll('option')].at(-1)?.value ?? '';
			else if (field.type === 'date') field.value = '2019-03-04';
			else field.value += '7';
			// what filters a sheet leads to another one
			const [isText, isForm] = [
				!isTicked(field) && !field.matches('select'),
				field.closest('form[method=post], tbody')
			];
			if (isText || isForm) field.dispatchEvent(new Event('input', { bubbles: true }));
			if (isForm) field.dispatchEvent(new Event('change', { bubbles: true }));
		}
		await drawn();
		const stateOf = (field: HTMLInputElement) => {
			if (!field.isConnected) return 'gone';
			if (isTicked(field)) return String(field.checked);
			return field.ariaSelected ?? field.getAttribute('open') ?? field.value;
		};
		return { stateOf, fields: shown().map((field) => ({ field, was: stateOf(field) })) };
	});

/**
 * What is no longer as a person entered it, once a job has ended in the background, after which every page loads its
 * numbers anew.
 *
 * @param page one that follows jobs, and began with {@link keepEvents}; what was entered stays in it
 * @returns each field that was lost, with what stood there and what stands there now
 */
export async function lostWhenAJobEnds(page: Page): Promise<string[]> {
	const entered = await enterEverything(page);
	await page.evaluate(async () => {
		const loaded = new Promise<void>((resolve) => {
			const observer = new PerformanceObserver((list) => {
				if (list.getEntries().some(({ name }) => name.includes('__data.json'))) resolve();
			});
			observer.observe({ type: 'resource' });
		});
		const job = { id: Date.now(), about: { kind: 'verify' }, state: 'done', startedAt: '2026-01-01T00:00:00Z' };
		window.events?.dispatchEvent(new MessageEvent('job', { data: JSON.stringify(job) }));
		await loaded;
	});
	return entered.evaluate(async ({ stateOf, fields }) => {
		await new Promise((resolve) => setTimeout(resolve, 100));
		const lost = fields
			.filter(({ field, was }) => stateOf(field) !== was)
			.map(({ field, was }) => `${was}, then ${stateOf(field)}: ${field.outerHTML.slice(0, 160)}`);
		for (const menu of document.querySelectorAll<HTMLDetailsElement>('main details')) menu.open = false;
		return lost;
	});
}
