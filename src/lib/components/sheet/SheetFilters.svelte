<script lang="ts">
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import type { Choice, Choices, Narrowing } from '../../../core/search/narrowing.ts';
	import { showCount } from '../../../core/weigh/units.ts';

	interface Props {
		/** The filters with their counts; null: they could not be counted. */
		choices: Promise<Choices | null>;
		/** Those in effect. */
		narrowing: Narrowing;
		/** Those that belong to the page, and cannot be changed. */
		fixed: readonly string[];
		/** Set if only the first messages are counted: how many. */
		counted?: number;
	}
	let { choices, narrowing, fixed, counted }: Props = $props();

	/* The last ones stay in sight while others are counted. */
	let shown = $state.raw<Choices>();
	$effect(() => {
		// the sheet may be gone before they come
		let isCurrent = true;
		void choices.then((found) => {
			if (isCurrent && found) shown = found;
		});
		return () => {
			isCurrent = false;
		};
	});

	const TITLES: [keyof Narrowing, string][] = [
		['who', 'Person'],
		['year', 'Year'],
		['folder', 'Folder'],
		['tag', 'Tag'],
		['kind', 'Kind'],
		['list', 'List'],
		['file', 'Attachment'],
		['mailbox', 'Mailbox']
	];
	const FILE_NAMES: Record<string, string> = {
		any: 'with a file',
		pdf: 'PDF',
		sheet: 'spreadsheet',
		packed: 'archive (zip …)'
	};

	/* With a single mailbox its name is not repeated beside each folder. */
	function choicesOf(of: keyof Narrowing): Choice[] {
		const found = shown?.[of] ?? [];
		const only = shown?.mailbox.length === 1 ? `, ${shown.mailbox[0]?.name}` : undefined;
		if (of === 'file') return found.map((choice) => ({ ...choice, name: FILE_NAMES[choice.value] ?? choice.name }));
		return of === 'folder' && only
			? found.map((choice) => ({ ...choice, name: choice.name.replace(only, '') }))
			: found;
	}
	/* The name of a filter in effect; it is one of those that are counted. */
	const nameOf = (of: keyof Narrowing, value: string) =>
		choicesOf(of).find((choice) => choice.value === value)?.name ?? FILE_NAMES[value] ?? value;

	let row = $state<HTMLElement>();

	function narrow(of: keyof Narrowing, value: string | undefined) {
		for (const menu of row?.querySelectorAll('details') ?? []) menu.open = false;
		const address = new URL(page.url);
		address.searchParams.delete('page');
		if (value === undefined) address.searchParams.delete(of);
		else address.searchParams.set(of, value);
		void goto(address, { keepFocus: true, noScroll: true });
	}

	/* One menu is open at a time; Escape closes it and gives the focus back. */
	function onToggle(event: Event & { currentTarget: HTMLDetailsElement }) {
		if (!event.currentTarget.open) return;
		for (const menu of row?.querySelectorAll('details') ?? []) if (menu !== event.currentTarget) menu.open = false;
		keepInSight(event.currentTarget.querySelector('ul'));
	}
	/* A menu at the right edge would have the page scroll sideways. */
	const EDGE_PX = 8;
	function keepInSight(list: HTMLElement | null) {
		if (!list) return;
		list.style.left = '';
		const over = list.getBoundingClientRect().right + EDGE_PX - document.documentElement.clientWidth;
		if (over > 0) list.style.left = `${-over}px`;
	}
	function onKey(event: KeyboardEvent & { currentTarget: HTMLDetailsElement }) {
		if (event.key !== 'Escape' || !event.currentTarget.open) return;
		event.currentTarget.open = false;
		event.currentTarget.querySelector('summary')?.focus();
		event.stopPropagation();
	}
</script>

<div class="flex flex-wrap items-center gap-1.5 text-sm" role="group" aria-label="Filters" bind:this={row}>
	{#each TITLES as [of, title] (of)}
		{@const now = narrowing[of]}
		{@const offered = choicesOf(of)}
		{#if fixed.includes(of)}
			<!-- the page is about it -->
		{:else if now !== undefined}
			<button
				class="quiet px-2! py-0.5! text-sm"
				type="button"
				aria-pressed="true"
				title="Remove this filter"
				onclick={() => narrow(of, undefined)}
				>{title}: <b class="max-w-48 truncate">{nameOf(of, String(now))}</b> <span aria-hidden="true">×</span></button
			>
		{:else if offered.length > 1 || (of === 'file' && offered.length > 0)}
			<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
			<details class="relative" ontoggle={onToggle} onkeydown={onKey}>
				<summary class="quiet cursor-pointer px-2! py-0.5! text-sm">{title}</summary>
				<ul
					class="bg-sheet border-rule-strong absolute left-0 z-20 mt-1 max-h-80 w-72 max-w-[calc(100vw-1rem)] overflow-auto border p-1 shadow-lg"
					aria-label={title}
				>
					{#each offered as { value, name, messages } (value)}
						<li>
							<button
								class="hover:bg-stamp-soft flex min-h-[26px] w-full items-center justify-between gap-3 px-2 text-left"
								type="button"
								onclick={() => narrow(of, value)}
								><span class="truncate" title={name}>{name}</span><span class="text-ink-soft"
									>{showCount(messages)}</span
								></button
							>
						</li>
					{/each}
					{#if counted !== undefined}<li class="text-ink-soft px-2 pt-1 text-xs">
							Counted in the first {showCount(counted)}.
						</li>{/if}
				</ul>
			</details>
		{/if}
	{/each}
</div>
