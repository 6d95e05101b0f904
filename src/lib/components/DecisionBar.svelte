<script lang="ts">
	import type { SubmitFunction } from '@sveltejs/kit';
	import { tick } from 'svelte';
	import { enhance } from '$app/forms';
	import type { JunkMark } from '$lib/server/lists/decide-lists.ts';
	import { refusalOf, showKeepingFocus } from '$lib/sent-form.ts';
	import TermsFields from '$lib/components/TermsFields.svelte';
	import type { Decision, DecisionOptions } from '../../core/docket/decisions.ts';
	import { CLASS_WORDS, RECORD_CLASSES, type RecordClass } from '../../core/retention/classes.ts';
	import { showBytes, showCount, showMessages } from '../../core/weigh/units.ts';

	/** What is chosen on a sheet. */
	interface Chosen {
		messages: number;
		bytes: number;
		/** How many lots, and what one is called; undefined: single messages only. */
		lots?: number;
	}
	interface Props {
		chosen: Chosen;
		/** What goes along with the decision to the server. */
		wish: Record<string, unknown>;
		folders: readonly string[];
		tags: readonly string[];
		/** Whether the newest of each lot can be kept. */
		hasNewest: boolean;
		/** What is chosen goes to the server. @returns chooses it again, where it is refused */
		onSend: () => () => void;
		onRefused: (message: string) => void;
		/** Where the decision is posted to, with what the sheet shows. */
		action: string;
	}
	let { chosen, wish, folders, tags, hasNewest, onSend, onRefused, action }: Props = $props();

	type Word = {
		decision: Decision | JunkMark;
		name: string;
		needs?: 'folder' | 'tag' | 'pause' | 'class' | 'period' | 'series';
	};
	const WORDS: Word[] = [
		{ decision: 'archive', name: 'Archive' },
		{ decision: 'delete', name: 'Delete' },
		{ decision: 'move', name: 'Move …', needs: 'folder' },
		{ decision: 'tag', name: 'Tag …', needs: 'tag' },
		{ decision: 'keep', name: 'Keep' },
		{ decision: 'pause', name: 'Pause …', needs: 'pause' },
		{ decision: 'flag', name: 'Flag' },
		{ decision: 'read', name: 'Mark read' },
		{ decision: 'untag', name: 'Untag …', needs: 'tag' }
	];
	/* Wanted seldom, so behind a button, and without a digit. */
	const MORE: Word[] = [
		{ decision: 'junk', name: 'Junk' },
		{ decision: 'fraud', name: 'Fraud' },
		{ decision: 'not-junk', name: 'Not junk' },
		{ decision: 'unflag', name: 'Take the flag off' },
		{ decision: 'unread', name: 'Mark unread' },
		{ decision: 'release', name: 'Keep no longer' },
		{ decision: 'resume', name: 'End the pause' },
		{ decision: 'classify', name: 'Class …', needs: 'class' },
		{ decision: 'retain', name: 'Keep for a period …', needs: 'period' },
		{ decision: 'retain', name: 'Put under a series …', needs: 'series' }
	];
	let shows = $state(false);

	let asking = $state<Word>();
	let folder = $state('');
	let tag = $state('');
	let until = $state('');
	let because = $state('');
	let as = $state<RecordClass>('record');
	let terms = $state<string>();
	let series = $state('');
	let keepNewest = $state<number | undefined>();
	/* Decisions that are on their way. */
	let sending = $state(0);
	let form = $state<HTMLFormElement>();
	let decision = $state<Decision | JunkMark>('archive');

	const none = $derived(chosen.messages === 0);
	const spares = $derived(hasNewest && keepNewest !== undefined && keepNewest > 0);
	const options = $derived.by((): DecisionOptions => {
		if (asking?.needs === 'folder') return { folder: folder.trim() };
		if (asking?.needs === 'tag') return { tag: tag.trim() };
		if (asking?.needs === 'pause') return { until, because: because.trim() };
		if (asking?.needs === 'class') return { class: as, because: because.trim() };
		if (asking?.needs === 'period') return { terms };
		if (asking?.needs === 'series') return { series: series.trim() };
		return spares && (decision === 'archive' || decision === 'delete') ? { keepNewest: keepNewest as number } : {};
	});

	/* What a decision does to how many. */
	function doing({ name, needs }: Word): string {
		const them = showMessages(chosen.messages);
		if (needs === 'period') return `Give ${them} this period`;
		return needs === 'series' ? `Put ${them} under it` : `${name.replace(' …', '')} ${them}`;
	}

	/** Decides by the digit that stands on a button. */
	export function choose(digit: number): void {
		const word = WORDS[digit - 1];
		if (word && !none) take(word);
	}

	/* What was dropped somewhere is decided on by itself, whatever else is chosen. */
	let dropped: { wish: Record<string, unknown> | undefined; options: DecisionOptions } | undefined;

	/** Decides on what was dragged; without `what`, on what is chosen. */
	export function decideOn(word: Decision, given: DecisionOptions, what?: Record<string, unknown>): void {
		asking = undefined;
		decision = word;
		dropped = { wish: what, options: given };
		send();
	}

	/* Once the form shows what was decided: a field that is no longer asked for would hold it up. */
	function send() {
		void tick().then(() => form?.requestSubmit());
	}

	function take(word: Word) {
		dropped = undefined;
		decision = word.decision;
		if (word.needs) {
			asking = word;
			return;
		}
		asking = undefined;
		send();
	}

	const submit: SubmitFunction = ({ formData }) => {
		formData.set(
			'wish',
			JSON.stringify({ ...(dropped?.wish ?? wish), decision, options: dropped?.options ?? options })
		);
		// on its way: what is chosen from now on is for the next decision
		sending++;
		const asked = asking;
		const chooseAgain = dropped?.wish ? () => {} : onSend();
		dropped = undefined;
		asking = undefined;
		return async ({ result, update }) => {
			sending--;
			const refusal = refusalOf(result);
			if (refusal === undefined) return showKeepingFocus(update);
			chooseAgain();
			if (!none) asking = asked;
			onRefused(refusal);
		};
	};
</script>

<div class="decide below" role="group" aria-label="Decide">
	<p class="w-full text-sm" role="status" data-testid="chosen">
		{#if none}
			Choose rows to decide on them.
		{:else}
			<b
				>{chosen.lots === undefined
					? showMessages(chosen.messages)
					: `${showCount(chosen.lots)} ${chosen.lots === 1 ? 'lot' : 'lots'}, ${showMessages(chosen.messages)}`}</b
			>
			({showBytes(chosen.bytes)})
		{/if}
	</p>
	<form method="post" {action} use:enhance={submit} bind:this={form} class="flex flex-1 flex-wrap items-center gap-1.5">
		{#if asking}
			{#if asking.needs === 'folder'}
				<label class="flex items-center gap-2 text-sm"
					>Move to
					<!-- svelte-ignore a11y_autofocus -->
					<input
						class="field w-72"
						list="folders-there"
						bind:value={folder}
						autofocus
						required
						maxlength="2000"
					/></label
				>
				<datalist id="folders-there"
					>{#each folders as path (path)}<option value={path}></option>{/each}</datalist
				>
				<span class="text-ink-soft text-xs"
					>{folder.trim() && !folders.some((path) => path.toLowerCase() === folder.trim().toLowerCase())
						? 'a new folder'
						: ''}</span
				>
			{:else if asking.needs === 'tag'}
				<label class="flex items-center gap-2 text-sm"
					>{asking.decision === 'tag' ? 'Tag with' : 'Take off'}
					<!-- svelte-ignore a11y_autofocus -->
					<input class="field w-60" list="tags-there" bind:value={tag} autofocus required maxlength="200" /></label
				>
				<datalist id="tags-there"
					>{#each tags as name (name)}<option value={name}></option>{/each}</datalist
				>
			{:else if asking.needs === 'class'}
				<label class="flex items-center gap-2 text-sm"
					>Class as
					<!-- svelte-ignore a11y_autofocus -->
					<select class="field" bind:value={as} autofocus
						>{#each RECORD_CLASSES as of (of)}<option value={of}>{CLASS_WORDS[of].words}</option>{/each}</select
					></label
				>
				<label class="flex items-center gap-2 text-sm"
					>because <input class="field w-60" bind:value={because} required maxlength="500" /></label
				>
			{:else if asking.needs === 'period'}
				<TermsFields bind:terms triggers={['received']} dispositions={['destroy', 'archive', 'review', 'keep']} />
			{:else if asking.needs === 'series'}
				<label class="flex items-center gap-2 text-sm"
					>Series
					<!-- svelte-ignore a11y_autofocus -->
					<input class="field w-32" bind:value={series} autofocus required maxlength="40" /></label
				>
			{:else}
				<label class="flex items-center gap-2 text-sm"
					>Not before
					<!-- svelte-ignore a11y_autofocus -->
					<input class="field" type="date" bind:value={until} autofocus required /></label
				>
				<label class="flex items-center gap-2 text-sm"
					>because <input class="field w-60" bind:value={because} required maxlength="500" /></label
				>
			{/if}
			<button class="act" disabled={sending > 0 || (asking.needs === 'period' && terms === undefined)}
				>{doing(asking)}: put on the docket</button
			>
			<button class="quiet" type="button" onclick={() => (asking = undefined)}>Not now</button>
		{:else}
			{#each WORDS as word, at (word.decision)}
				<button
					class="quiet px-2! text-sm"
					class:border-stamp!={word.decision === 'archive'}
					type="button"
					disabled={none || sending > 0}
					onclick={() => take(word)}><kbd>{at + 1}</kbd> {word.name}</button
				>
			{/each}
			<button
				class="quiet px-2! text-sm"
				type="button"
				aria-expanded={shows}
				disabled={none || sending > 0}
				onclick={() => (shows = !shows)}>More</button
			>
			{#if shows && !none}
				{#each MORE as word (word.name)}
					<button class="quiet px-2! text-sm" type="button" disabled={sending > 0} onclick={() => take(word)}
						>{word.name}</button
					>
				{/each}
			{/if}
			{#if hasNewest}
				<label class="ml-1 flex items-center gap-1.5 text-sm"
					><span>but the newest</span>
					<input
						class="field w-20 py-0.5!"
						type="number"
						min="1"
						max="1000000"
						bind:value={keepNewest}
						placeholder="none"
					/>
					<span>of each stay</span></label
				>
			{/if}
		{/if}
	</form>
</div>
