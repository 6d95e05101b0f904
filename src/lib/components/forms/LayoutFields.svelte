<script lang="ts">
	import { untrack } from 'svelte';
	import ArrowUpIcon from '@lucide/svelte/icons/arrow-up';
	import XIcon from '@lucide/svelte/icons/x';
	import {
		archivePath,
		type ArchivedFacts,
		type Layout,
		LAYOUT_PARTS,
		type LayoutLevel,
		layoutWords,
		LEVEL_WORDS,
		LONGEST_WORDS,
		MOST_LEVELS,
		ownWords,
		wordsOfLevel
	} from '../../../core/archive/layout.ts';
	import { showCount } from '../../../core/weigh/units.ts';

	interface Props {
		layout: Layout;
		/** Facts of some mail, with how many messages share them: the tree is drawn with them. */
		sample: readonly (ArchivedFacts & { messages: number })[];
		firstMonth: number;
		/** Whether the fields open only on demand. */
		isFolded?: boolean;
	}
	let { layout, sample, firstMonth, isFolded = false }: Props = $props();

	const OWN = 'own';
	interface Level {
		part: LayoutLevel | typeof OWN;
		words: string;
	}
	const levelOf = (level: LayoutLevel): Level => {
		const words = wordsOfLevel(level);
		return words === undefined ? { part: level, words: '' } : { part: OWN, words };
	};
	let levels = $state(untrack(() => layout.map(levelOf)));

	/* Own words that are still empty make no level. */
	const made = $derived(
		levels.flatMap(({ part, words }): LayoutLevel[] =>
			part !== OWN ? [part] : words.trim() === '' ? [] : [ownWords(words)]
		)
	);

	function moveUp(at: number) {
		const [level] = levels.splice(at, 1);
		if (level) levels.splice(at - 1, 0, level);
	}

	/* The folders of the tree, each with its messages and those below. */
	const SHOWN = 14;
	const tree = $derived.by(() => {
		const counts: Record<string, number> = {};
		for (const facts of sample) {
			const names = archivePath(facts, made, firstMonth).split('/');
			for (let depth = 1; depth <= names.length; depth++) {
				const path = names.slice(0, depth).join('/');
				counts[path] = (counts[path] ?? 0) + facts.messages;
			}
		}
		return Object.entries(counts)
			.map(([path, messages]) => ({ path, messages }))
			.sort((a, b) => (a.path < b.path ? -1 : 1));
	});
	const total = $derived(sample.reduce((sum, { messages }) => sum + messages, 0));
</script>

{#snippet fields()}
	<div class="grid gap-6 md:grid-cols-[minmax(0,22rem)_minmax(0,1fr)]">
		<div role="group" aria-label="Levels of the archive">
			<ol class="flex flex-col gap-1">
				{#each levels as level, at (at)}
					<li class="flex items-center gap-1.5">
						<span class="text-ink-soft w-4 text-right text-sm">{at + 1}</span>
						<select class="field py-0.5!" bind:value={level.part} aria-label="Level {at + 1}">
							{#each LAYOUT_PARTS as part (part)}<option value={part}>{LEVEL_WORDS[part]}</option>{/each}
							<option value={OWN}>own words</option>
						</select>
						{#if level.part === OWN}<input
								class="field w-32 py-0.5!"
								bind:value={level.words}
								maxlength={LONGEST_WORDS}
								aria-label="Words of level {at + 1}"
								required
							/>{/if}
						<button
							class="quiet px-1.5! py-0.5!"
							type="button"
							aria-label="Move level {at + 1} up"
							disabled={at === 0}
							onclick={() => moveUp(at)}><ArrowUpIcon size={14} aria-hidden="true" /></button
						>
						<button
							class="quiet px-1.5! py-0.5!"
							type="button"
							aria-label="Remove level {at + 1}"
							onclick={() => levels.splice(at, 1)}><XIcon size={14} aria-hidden="true" /></button
						>
					</li>
				{/each}
			</ol>
			<button
				class="quiet mt-1.5 text-sm"
				type="button"
				disabled={levels.length >= MOST_LEVELS}
				onclick={() => levels.push({ part: levels.length === 0 ? 'folder' : 'year', words: '' })}>Add a level</button
			>
		</div>
		<div aria-live="polite">
			<p class="text-ink-soft text-sm">
				{#if total === 0}There is no mail to draw the tree from.{:else}The tree that the {showCount(total)} oldest messages
					would make:{/if}
			</p>
			<ul class="text-sm" aria-label="Tree of the archive">
				{#each tree.slice(0, SHOWN) as { path, messages } (path)}
					{@const names = path.split('/')}
					<li class="flex max-w-md justify-between gap-4" style:padding-left="{(names.length - 1) * 16}px">
						<span class="truncate" title={path}>{names.at(-1)}</span><span class="text-ink-soft"
							>{showCount(messages)}</span
						>
					</li>
				{/each}
			</ul>
			{#if tree.length > SHOWN}<p class="text-ink-soft text-sm">
					and {showCount(tree.length - SHOWN)} more folders
				</p>{/if}
		</div>
	</div>
{/snippet}

<input type="hidden" name="levels" value={JSON.stringify(made)} />
{#if isFolded}
	<details>
		<summary class="cursor-pointer text-sm">In the archive: <b>{layoutWords(made)}</b></summary>
		<div class="mt-2">{@render fields()}</div>
	</details>
{:else}
	<p class="text-sm">In the archive: <b>{layoutWords(made)}</b></p>
	{@render fields()}
{/if}
