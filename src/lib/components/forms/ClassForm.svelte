<script lang="ts">
	import RemovalForm from '$lib/components/forms/RemovalForm.svelte';
	import RetentionChange from '$lib/components/forms/RetentionChange.svelte';
	import TermsFields from '$lib/components/forms/TermsFields.svelte';
	import type { ClassView, RetentionSetting } from '$lib/server/retention/index.ts';
	import { UNCLASSED, wrongClass } from '../../../core/retention/classes.ts';
	import type { SeriesName } from '../../../core/retention/schedule.ts';
	import { showMessages } from '../../../core/weigh/units.ts';

	interface Props {
		/** Undefined: a new class. */
		known: ClassView | undefined;
		classes: readonly ClassView[];
		series: readonly SeriesName[];
		onDone: (overQuota: string[]) => void;
	}
	let { known, classes, series, onDone }: Props = $props();

	type Period = 'same' | 'none' | 'series' | 'period';
	// the form holds the fields from then on

	// svelte-ignore state_referenced_locally
	let name = $state(known?.name ?? '');
	// svelte-ignore state_referenced_locally
	let letter = $state(known?.letter ?? '');
	// svelte-ignore state_referenced_locally
	let isProtected = $state(known?.isProtected ?? false);
	// svelte-ignore state_referenced_locally
	let megabytes = $state<number | null>(known?.quotaBytes === undefined ? null : known.quotaBytes / 1_000_000);
	// svelte-ignore state_referenced_locally
	let period = $state<Period>(known ? 'same' : 'none');
	let code = $state('');
	let terms = $state<string>();

	const isUnclassed = $derived(known?.word === UNCLASSED);
	const quotaBytes = $derived(megabytes === null ? undefined : Math.round(megabytes * 1_000_000));
	const fields = $derived({ name, letter, isProtected, quotaBytes });
	// svelte-ignore state_referenced_locally
	const asShown = JSON.stringify(fields);
	const wrong = $derived(
		wrongClass(
			fields,
			classes.filter((of) => of !== known),
			isUnclassed
		)
	);
	const retention = $derived.by(() => {
		if (period === 'series') return code ? ({ series: code } as const) : undefined;
		if (period === 'period') return terms ? ({ terms } as const) : undefined;
		return period === 'none' && known ? ('none' as const) : undefined;
	});
	const isWhole = $derived(wrong === undefined && (period === 'same' || period === 'none' || retention !== undefined));
	// nothing is counted before something is changed
	const isChanged = $derived(!known || period !== 'same' || asShown !== JSON.stringify(fields));
	const wish = $derived<RetentionSetting>({
		kind: 'class',
		class: known?.word ?? null,
		fields,
		...(retention === undefined ? {} : { retention })
	});
</script>

<div class="flex flex-wrap items-end gap-3">
	<label class="flex flex-col gap-1 text-sm">Name <input class="field w-60" bind:value={name} maxlength="60" /></label>
	<label class="flex flex-col gap-1 text-sm"
		>Letter <input class="field w-16" bind:value={letter} maxlength="2" /></label
	>
	{#if !isUnclassed}
		<label class="flex flex-col gap-1 text-sm"
			>May weigh in each mailbox (MB)
			<input class="field w-32" type="number" min="1" step="any" placeholder="no quota" bind:value={megabytes} /></label
		>
	{/if}
</div>
{#if !isUnclassed}
	<label class="flex items-center gap-2 text-sm"
		><input type="checkbox" bind:checked={isProtected} /> Protected as records: nobody deletes its mail before its time</label
	>
{/if}
<div class="flex flex-wrap items-end gap-3">
	<label class="flex flex-col gap-1 text-sm"
		>Period, for mail in a folder without one
		<select class="field" bind:value={period}>
			{#if known}<option value="same">{known.period || 'none'}, unchanged</option>{/if}
			<option value="none">no period</option>
			<option value="series">a series</option>
			{#if !isProtected}<option value="period">a plain period</option>{/if}
		</select></label
	>
	{#if period === 'series'}
		<label class="flex flex-col gap-1 text-sm"
			>Series
			<select class="field" bind:value={code}>
				<option value="">{series.length > 0 ? 'select one' : 'the schedule has none yet'}</option>
				{#each series as { code: of, title } (of)}<option value={of}>{of} {title}</option>{/each}
			</select></label
		>
	{:else if period === 'period'}
		<TermsFields bind:terms />
	{/if}
</div>
{#if isWhole && isChanged}
	<RetentionChange
		fields={{ wish: JSON.stringify(wish) }}
		words={known ? `The class “${name.trim()}” changes.` : `A new class: “${name.trim()}”.`}
		look="/retain/folders?/look"
		save="/retain/folders?/save"
		onSaved={onDone}
		onLeft={() => onDone([])}
	/>
{:else if wrong || !isWhole}
	<p class="text-ink-soft text-sm">{wrong ? `${wrong}.` : 'Select the period.'}</p>
{/if}
{#if known && !isUnclassed}
	{#if known.places + known.messages > 0}
		<p class="text-ink-soft text-sm">
			{known.places === 1 ? '1 folder or folder name sets' : `${known.places} folders or folder names set`} this class, and
			{showMessages(known.messages)}
			{known.messages === 1 ? 'is' : 'are'} of it, so it stays.
		</p>
	{:else}
		<RemovalForm
			action="/retain/schedule?/removeClass"
			words="Remove the class"
			fields={{ class: known.word }}
			onRemoved={() => onDone([])}
		/>
	{/if}
{/if}
