<script lang="ts">
	import DateField from '$lib/components/forms/DateField.svelte';
	import { untrack } from 'svelte';
	import { page } from '$app/state';
	import NameField from '$lib/components/docket/NameField.svelte';
	import TermsFields from '$lib/components/forms/TermsFields.svelte';
	import type { Asked, DecisionOptions } from '../../../core/docket/decision.ts';
	import type { SeriesName } from '../../../core/retention/schedule.ts';

	interface Props {
		asks: Asked;
		folders?: readonly string[];
		tags?: readonly string[];
		/** Folders and tags this person used last; the latest is filled in. */
		recent?: { folders: readonly string[]; tags: readonly string[] } | undefined;
		/** The series of the schedule. */
		series?: readonly SeriesName[];
		/** The answer; undefined while something is missing. */
		options: DecisionOptions | undefined;
		/** The sign before a tag: added, or removed. */
		tagLabel?: string;
		/** What is done with the folder. */
		folderLabel?: string;
	}
	let {
		asks,
		folders = [],
		tags = [],
		recent,
		series: schedule = [],
		options = $bindable(),
		tagLabel = 'Tag',
		folderLabel = 'Move to'
	}: Props = $props();

	const first = untrack(() => ({ folder: recent?.folders[0] ?? '', tag: recent?.tags[0] ?? '' }));
	let folder = $state(first.folder);
	let tag = $state(first.tag);
	let until = $state('');
	let because = $state('');
	const classes = $derived(page.data.classes ?? []);
	let recordClass = $state(untrack(() => classes.find(({ isProtected }) => isProtected)?.word ?? ''));
	let terms = $state<string>();
	let series = $state('');

	/* The last used come first; each is listed once. */
	const ordered = (last: readonly string[] = [], names: readonly string[]) => [...new Set([...last, ...names])];
	/* The attribute works only while nothing has the focus. */
	const focus = (field: HTMLElement) => field.focus();

	const isNew = $derived(
		folder.trim() !== '' && !folders.some((path) => path.toLowerCase() === folder.trim().toLowerCase())
	);

	$effect(() => {
		const said: Record<Asked, DecisionOptions | false> = {
			folder: folder.trim() !== '' && { folder: folder.trim() },
			tag: tag.trim() !== '' && { tag: tag.trim() },
			pause: until !== '' && because.trim() !== '' && { until, because: because.trim() },
			class: because.trim() !== '' && { class: recordClass, because: because.trim() },
			period: terms !== undefined && { terms },
			series: series.trim() !== '' && { series: series.trim() }
		};
		options = said[asks] || undefined;
	});
</script>

{#if asks === 'folder'}
	<NameField label={folderLabel} bind:value={folder} names={ordered(recent?.folders, folders)} longest={2000} />
	<span class="text-ink-soft text-xs">{isNew ? 'a new folder' : ''}</span>
{:else if asks === 'tag'}
	<NameField label={tagLabel} bind:value={tag} names={ordered(recent?.tags, tags)} longest={200} />
{:else if asks === 'class'}
	<label class="flex items-center gap-2 text-sm"
		>Class
		<select class="field" bind:value={recordClass} {@attach focus}
			>{#each classes as { word, name } (word)}<option value={word}>{name}</option>{/each}</select
		></label
	>
	<label class="flex items-center gap-2 text-sm"
		>because <input class="field w-60" bind:value={because} required maxlength="500" /></label
	>
{:else if asks === 'period'}
	<TermsFields bind:terms triggers={['received']} dispositions={['destroy', 'archive', 'review', 'keep']} />
{:else if asks === 'series'}
	<label class="flex items-center gap-2 text-sm"
		>Series
		<select class="field max-w-80" bind:value={series} {@attach focus} required>
			<option value="">{schedule.length > 0 ? 'select one' : 'the schedule has none yet'}</option>
			{#each schedule as { code, title } (code)}<option value={code}>{code} {title}</option>{/each}
		</select></label
	>
{:else}
	<label class="flex items-center gap-2 text-sm"
		>Not before <DateField bind:value={until} required attach={focus} /></label
	>
	<label class="flex items-center gap-2 text-sm"
		>because <input class="field w-60" bind:value={because} required maxlength="500" /></label
	>
{/if}
