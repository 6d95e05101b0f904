<script lang="ts">
	import type { SubmitFunction } from '@sveltejs/kit';
	import { tick } from 'svelte';
	import { enhance } from '$lib/enhance.ts';
	import type { JunkMark } from '$lib/server/lists/index.ts';
	import { refusalOf, showResultKeepingFocus } from '$lib/sent-form.ts';
	import HoldFields from '$lib/components/docket/HoldFields.svelte';
	import DecisionFields from '$lib/components/docket/DecisionFields.svelte';
	import type { DecisionButton, DecisionOptions } from '../../../core/docket/decision.ts';
	import type { SeriesName } from '../../../core/retention/schedule.ts';
	import { type Decision, DECISIONS, decisionsOn, ruleOf } from '../../../core/docket/decisions.ts';
	import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';

	type Deciding = Decision | JunkMark | 'hold';

	/** The selection on a sheet. */
	interface Selected {
		messages: number;
		bytes: number;
		/** The number of lots and their noun; undefined: single messages only. */
		lots?: number;
	}
	interface Props {
		selected: Selected;
		/** Fields sent to the server with the decision. */
		wish: Record<string, unknown>;
		folders: readonly string[];
		/** The folders of the archive. */
		archiveFolders?: readonly string[];
		tags: readonly string[];
		/** Folders and tags this person used last, listed first. */
		recent?: { folders: readonly string[]; tags: readonly string[] };
		/** The series of the schedule; undefined: this person puts nothing under a series. */
		series: readonly SeriesName[] | undefined;
		/** The holds in effect; set where messages can be put under one, and their lists unsubscribed from. */
		holds?: readonly string[];
		/** The decisions offered; undefined: those on lots. */
		offered?: readonly Decision[];
		/** Whether a decision is carried out at once, not collected on the docket. */
		isAtOnce?: boolean;
		/** Whether several tags can be named, separated by commas. */
		hasSeveralTags?: boolean;
		/** Whether the newest of each lot can be kept. */
		hasNewest?: boolean;
		/** The selection is being sent. @returns selects it again if the server refuses */
		onSend: (decision: Deciding) => () => void;
		onRefused: (message: string) => void;
		/** The decision was accepted and the page shows it. */
		onDone?: (decision: Deciding) => void;
		/** Where the decision is posted, with the sheet's address. */
		action: string;
	}
	let {
		selected,
		wish,
		folders,
		archiveFolders = [],
		tags,
		recent,
		series,
		holds,
		offered = decisionsOn('sheet'),
		isAtOnce = false,
		hasNewest = false,
		hasSeveralTags = false,
		onSend,
		onRefused,
		onDone,
		action
	}: Props = $props();

	/** A button of the bar, for a decision, a mark or a hold. */
	interface Word extends Omit<DecisionButton, 'asks'> {
		decision: Deciding;
		digit?: number;
		asks?: DecisionButton['asks'] | 'hold';
	}
	const wordsOf = (decision: Decision): Word[] =>
		ruleOf(decision).buttons.map((button, n) => ({
			...button,
			decision,
			digit: n === 0 ? ruleOf(decision).digit : undefined
		}));
	const all = $derived(offered.flatMap(wordsOf).filter(({ asks }) => asks !== 'series' || series !== undefined));
	const words = $derived(all.filter(({ digit }) => digit !== undefined));
	/* Rare, so behind a button and without a digit. Junk applies only to mail in folders. */
	const JUNK: Word[] = [
		{ decision: 'junk', label: 'Junk' },
		{ decision: 'fraud', label: 'Fraud' },
		{ decision: 'not-junk', label: 'Not junk' }
	];
	const HOLD: Word = {
		decision: 'hold',
		label: 'Hold …',
		asks: 'hold',
		says: (them) => `Put ${them} under the hold`
	};
	const more = $derived([
		...(offered.includes('archive') ? JUNK : []),
		...(holds ? [...wordsOf('unsubscribe'), HOLD] : []),
		...all.filter(({ digit }) => digit === undefined)
	]);
	const FOLDER_LABELS: Partial<Record<Deciding, string>> = { restore: 'Restore to', archive: 'Archive into' };
	let shows = $state(false);

	let asking = $state<Word>();
	let said = $state<DecisionOptions>();
	let hold = $state<{ name: string }>();
	let keepNewest = $state<number | undefined>();
	/* Decisions being sent. */
	let sending = $state(0);
	let form = $state<HTMLFormElement>();
	let decision = $state<Deciding>('archive');

	const none = $derived(selected.messages === 0);
	const spares = $derived(hasNewest && keepNewest !== undefined && keepNewest > 0);
	const canSpare = (word: Deciding) =>
		(DECISIONS as readonly string[]).includes(word) && ruleOf(word as Decision).canSpareNewest;
	const options = $derived.by((): DecisionOptions => {
		if (asking) return asking.asks === 'hold' ? {} : (said ?? {});
		return spares && canSpare(decision) ? { keepNewest: keepNewest as number } : {};
	});

	/* A decision with the number of messages it applies to. */
	function doing({ label, says }: Word): string {
		const them = showMessages(selected.messages);
		return says?.(them) ?? `${label.replace(' …', '')} ${them}`;
	}

	/** Decides by the digit on a button. */
	export function pressDigit(digit: number): void {
		const word = words.find((one) => one.digit === digit);
		if (word && !none) take(word);
	}

	/* Dropped messages are decided on by themselves, without the selection. */
	let dropped: { wish: Record<string, unknown> | undefined; options: DecisionOptions } | undefined;

	/** Decides on dragged messages; without `what`, on the selected ones. */
	export function decideOn(word: Decision, given: DecisionOptions, what?: Record<string, unknown>): void {
		asking = undefined;
		decision = word;
		dropped = { wish: what, options: given };
		send();
	}

	/* A tag with a comma in its name is one tag. */
	function tagsIn(said: string | undefined): { tags?: string[] } {
		if (!hasSeveralTags || !said?.includes(',') || tags.includes(said)) return {};
		return {
			tags: said
				.split(',')
				.map((name) => name.trim())
				.filter(Boolean)
		};
	}

	/* After the form has been updated: a required field of the earlier decision would block it. */
	function send() {
		void tick().then(() => form?.requestSubmit());
	}

	function take(word: Word) {
		dropped = undefined;
		decision = word.decision;
		if (word.asks) {
			asking = word;
			return;
		}
		asking = undefined;
		send();
	}

	const submit: SubmitFunction = ({ formData }) => {
		formData.set(
			'wish',
			JSON.stringify({
				...(dropped?.wish ?? wish),
				...tagsIn(options.tag),
				...(decision === 'hold' ? { hold } : {}),
				decision,
				options: dropped?.options ?? options
			})
		);
		// sent: what is selected from now on belongs to the next decision
		sending++;
		const asked = asking;
		const selectAgain = dropped?.wish ? () => {} : onSend(decision);
		dropped = undefined;
		asking = undefined;
		return async ({ result, update }) => {
			sending--;
			const refusal = refusalOf(result);
			if (refusal === undefined) {
				const taken = decision;
				await showResultKeepingFocus(update);
				onDone?.(taken);
				return;
			}
			selectAgain();
			// the bar of an open message goes with it
			if (form && !none) asking = asked;
			onRefused(refusal);
		};
	};
</script>

<div class="decide below" role="group" aria-label="Decide">
	<p class="w-full text-sm" role="status" data-testid="selected">
		{#if none}
			Select rows to decide on them.
		{:else}
			<b
				>{!selected.lots
					? showMessages(selected.messages)
					: `${showCount(selected.lots)} ${selected.lots === 1 ? 'lot' : 'lots'}, ${showMessages(selected.messages)}`}</b
			>
			({showBytes(selected.bytes)})
		{/if}
	</p>
	<form method="post" {action} use:enhance={submit} bind:this={form} class="flex flex-1 flex-wrap items-center gap-1.5">
		{#if asking}
			{#if asking.asks === 'hold'}
				<HoldFields holds={holds ?? []} bind:hold />
			{:else if asking.asks}
				{#key asking}
					<DecisionFields
						asks={asking.asks}
						{tags}
						{recent}
						series={series ?? []}
						folderLabel={FOLDER_LABELS[asking.decision] ?? 'Move to'}
						folders={asking.decision === 'archive' || asking.decision === 'arrange' ? archiveFolders : folders}
						tagLabel={`${asking.decision === 'tag' ? 'Tag with' : 'Remove tag'}${hasSeveralTags ? ' (several with commas)' : ''}`}
						bind:options={said}
					/>
				{/key}
			{/if}
			<button
				class="act"
				disabled={sending > 0 ||
					(asking.asks === 'period' && said === undefined) ||
					(asking.asks === 'hold' && hold === undefined)}
				>{doing(asking)}{isAtOnce || asking.asks === 'hold' ? '' : ': put on the docket'}</button
			>
			<button class="quiet" type="button" onclick={() => (asking = undefined)}>Not now</button>
		{:else}
			{#each words as word (word.decision)}
				<button
					class="quiet px-2! text-sm"
					class:border-stamp!={word.digit === 1}
					type="button"
					disabled={none || sending > 0}
					onclick={() => take(word)}><kbd>{word.digit}</kbd> {word.label}</button
				>
			{/each}
			{#if more.length > 0}
				<button
					class="quiet px-2! text-sm"
					type="button"
					aria-expanded={shows}
					disabled={none || sending > 0}
					onclick={() => (shows = !shows)}>More</button
				>
			{/if}
			{#if shows && !none}
				{#each more as word (word.label)}
					<button class="quiet px-2! text-sm" type="button" disabled={sending > 0} onclick={() => take(word)}
						>{word.label}</button
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
