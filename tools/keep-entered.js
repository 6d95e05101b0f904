// A Vite plugin for one defect of Svelte 5: where a page is hydrated, the field of an <input> forgets which value it was
// given, as taking its attribute off clears what is known of the value as well. The next time that anything beside it
// changes, such a field is given its value again, and what a person has entered since is lost.
const FILE = /svelte\/src\/internal\/client\/dom\/elements\/attributes\.js$/;
const CLEARED = /set_attribute\(input, '(value|checked)', null\)/g;

/** @returns {import('vite').Plugin} */
export function keepEntered() {
	return {
		name: 'keep-entered',
		// the server hydrates nothing
		applyToEnvironment: ({ name }) => name === 'client',
		transform(code, id) {
			if (!FILE.test(id.split('?')[0] ?? '')) return;
			if (code.match(CLEARED)?.length !== 2)
				throw new Error(
					'keep-entered: Svelte clears attributes of fields in another way. See whether this is still needed.'
				);
			return { code: code.replace(CLEARED, "input.removeAttribute('$1')"), map: null };
		}
	};
}
