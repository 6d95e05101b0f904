<script lang="ts">
	import { untrack } from 'svelte';
	import SearchIcon from '@lucide/svelte/icons/search';
	import type { Suggestion } from '$lib/server/find/index.ts';

	interface Props {
		value: string;
		/** Starts a search; `done`: the text is complete, not still being typed. */
		onSearch: (text: string, done: boolean) => void;
	}
	let { value, onSearch }: Props = $props();

	const NAMES: Record<Suggestion['of'], string> = {
		person: 'written by',
		subject: 'subject',
		folder: 'folder',
		tag: 'tag',
		time: 'time',
		word: 'did you mean'
	};

	let text = $state(untrack(() => value));
	/* The text is ahead of the search: the answer to an earlier text must not overwrite it. */
	let isAhead = false;
	$effect(() => {
		const searched = value;
		untrack(() => {
			if (searched === text) isAhead = false;
			else if (!isAhead) text = searched;
		});
	});
	let suggestions = $state.raw<Suggestion[]>([]);
	let at = $state(-1);
	let isOpen = $state(false);
	let waiting: ReturnType<typeof setTimeout> | undefined;
	let asked = 0;
	/* An arrow key was pressed before the list arrived. */
	let hasWalked = false;
	const id = $props.id();

	$effect(() => () => clearTimeout(waiting));

	async function suggestFor(written: string) {
		const number = ++asked;
		const answer = await fetch(`/find/suggest?text=${encodeURIComponent(written)}`).catch(() => undefined);
		const found = answer?.ok ? ((await answer.json()) as Suggestion[]) : undefined;
		if (number !== asked || !found) return;
		const selected = suggestions[at]?.query;
		suggestions = found;
		const again = suggestions.findIndex(({ query }) => query === selected);
		at = suggestions.length > 0 && (hasWalked || selected !== undefined) ? Math.max(0, again) : -1;
		hasWalked = false;
		isOpen = suggestions.length > 0;
	}

	function onInput() {
		isAhead = true;
		clearTimeout(waiting);
		hasWalked = false;
		waiting = setTimeout(() => {
			onSearch(text, false);
			void suggestFor(text);
		}, 200);
	}

	function close() {
		clearTimeout(waiting);
		asked++;
		hasWalked = false;
		isOpen = false;
		at = -1;
		isAhead = false;
	}

	function search() {
		close();
		isAhead = true;
		onSearch(text, true);
	}

	function take(suggestion: Suggestion) {
		text = suggestion.query;
		search();
	}

	function onKey(event: KeyboardEvent) {
		const selected = suggestions[at];
		if (event.key === 'ArrowDown' && suggestions.length > 0) {
			isOpen = true;
			at = (at + 1) % suggestions.length;
		} else if (event.key === 'ArrowDown') hasWalked = true;
		else if (event.key === 'ArrowUp' && isOpen) at = at <= 0 ? suggestions.length - 1 : at - 1;
		else if (event.key === 'Escape' && isOpen) close();
		else if (event.key === 'Enter') {
			if (isOpen && selected) take(selected);
			else search();
		} else return;
		event.preventDefault();
	}
</script>

<!-- a combobox after WAI-ARIA 1.2: the focus stays in the box -->
<div class="relative flex gap-2" role="search">
	<input
		class="field min-w-0 flex-1 py-2 text-lg"
		type="search"
		role="combobox"
		aria-label="What are you looking for?"
		aria-expanded={isOpen}
		aria-controls="{id}-list"
		aria-autocomplete="list"
		aria-activedescendant={at >= 0 ? `${id}-${at}` : undefined}
		autocomplete="off"
		spellcheck="false"
		maxlength="1000"
		placeholder="A person, a word, a subject, a time: Berglund, ramp limit, last winter"
		bind:value={text}
		oninput={onInput}
		onkeydown={onKey}
		onblur={close}
	/>
	<button class="act" type="button" onclick={search}><SearchIcon size={16} aria-hidden="true" /> Find</button>
	<ul
		id="{id}-list"
		role="listbox"
		aria-label="Suggestions"
		hidden={!isOpen}
		class="bg-sheet border-rule-strong absolute top-full left-0 z-30 mt-1 w-full max-w-3xl border shadow-lg"
	>
		{#each suggestions as suggestion, n (n)}
			<li
				id="{id}-{n}"
				role="option"
				aria-selected={n === at}
				class="flex cursor-pointer gap-3 px-3 py-1"
				class:bg-stamp-soft={n === at}
				onpointerdown={(event) => {
					event.preventDefault();
					take(suggestion);
				}}
				onpointerenter={() => (at = n)}
			>
				<span class="text-ink-soft w-24 shrink-0 text-sm">{NAMES[suggestion.of]}</span>
				<span class="truncate">{suggestion.name}</span>
			</li>
		{/each}
	</ul>
</div>
