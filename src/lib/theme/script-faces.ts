import { hasOtherScript } from '../../core/message/script-faces.ts';

/**
 * Loads the faces for other scripts once such a letter stands on the page: the list of their ranges is larger than most pages.
 *
 * @returns stops watching for it
 */
export function loadScriptFacesWhenNeeded(page: HTMLElement): () => void {
	const observer = new MutationObserver((changes) => {
		const isThere = changes.some(({ type, target, addedNodes }) =>
			(type === 'characterData' ? [target] : [...addedNodes]).some(isOther)
		);
		if (isThere) load();
	});
	const load = () => {
		observer.disconnect();
		void import('./scripts.css');
	};
	const isOther = (node: Node) => hasOtherScript(node.textContent ?? '');
	if (isOther(page)) load();
	else observer.observe(page, { subtree: true, childList: true, characterData: true });
	return () => observer.disconnect();
}
