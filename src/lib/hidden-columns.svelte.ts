/** Columns of a sheet of messages that can be hidden. */
export const COLUMNS = {
	received: 'Received',
	from: 'From',
	text: 'First words',
	files: 'Attachments',
	size: 'Size'
} as const;
export type Column = keyof typeof COLUMNS;

const KEPT_AS = 'kovrel-hidden-columns';

/** The hidden columns; the browser remembers them. */
export class HiddenColumns {
	#hidden = $state.raw<readonly string[]>([]);

	constructor() {
		$effect(() => {
			this.#hidden = (localStorage.getItem(KEPT_AS) ?? '').split(' ').filter(Boolean);
		});
	}

	/** Whether a column is shown. */
	shows(column: Column): boolean {
		return !this.#hidden.includes(column);
	}

	/** Hides a column, or shows it again. */
	toggle(column: Column): void {
		this.#hidden = this.shows(column) ? [...this.#hidden, column] : this.#hidden.filter((one) => one !== column);
		localStorage.setItem(KEPT_AS, this.#hidden.join(' '));
	}
}
