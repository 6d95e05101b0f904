<script lang="ts">
	import Explain from '$lib/components/frames/Explain.svelte';
	import { enhance } from '$lib/enhance.ts';
	import { goto } from '$app/navigation';
	import Drawer from '$lib/components/frames/Drawer.svelte';
	import ClassForm from '$lib/components/forms/ClassForm.svelte';
	import RemovalForm from '$lib/components/forms/RemovalForm.svelte';
	import RetentionChange from '$lib/components/forms/RetentionChange.svelte';
	import TermsFields from '$lib/components/forms/TermsFields.svelte';
	import { showDate } from '../../../core/calendar.ts';
	import { type Series, seriesFields } from '../../../core/retention/schedule.ts';
	import { DISPOSITION_WORDS, termsWords, TRIGGER_WORDS } from '../../../core/retention/sentences.ts';
	import { periodWords } from '../../../core/retention/periods.ts';
	import { readTerms } from '../../../core/retention/terms.ts';
	import { UNCLASSED } from '../../../core/retention/classes.ts';
	import { showBytes, showCount } from '../../../core/weigh/units.ts';

	let { data, form } = $props();
	const isAdministrator = $derived(data.person?.role === 'administrator');

	interface Imported {
		made: string[];
		changed: string[];
		same: number;
		notNamed: string[];
	}
	const answer = $derived(form as { message?: string; imported?: Imported; removed?: string } | null);

	let classing = $state<{ word: string | undefined }>();
	let overQuota = $state.raw<string[]>([]);
	const mailboxId = $derived(data.mailboxes[0]?.id);
	const classed = $derived(data.classRows.find(({ word }) => word === classing?.word));
	let editing = $state<'new' | string>();
	let code = $state('');
	let title = $state('');
	let description = $state('');
	let authority = $state('');
	let owner = $state('');
	let terms = $state<string>();
	const known = $derived(data.series.find((one) => one.code === editing));

	function edit(series: (typeof data.series)[number] | undefined) {
		({ code, title, description, authority, owner } = series ?? {
			code: '',
			title: '',
			description: '',
			authority: '',
			owner: ''
		});
		editing = series?.code ?? 'new';
		void goto(series ? `/retain/schedule?code=${encodeURIComponent(series.code)}` : '/retain/schedule', {
			keepFocus: true,
			noScroll: true
		});
	}

	const fields = $derived.by(() => {
		if (terms === undefined || code.trim() === '' || title.trim() === '') return undefined;
		const series: Series = { code, title, description, terms: readTerms(terms), authority, owner };
		return seriesFields(series);
	});
	// nothing is counted before something is changed
	const isChanged = $derived(!known || JSON.stringify(fields) !== JSON.stringify(seriesFields(known)));
</script>

<svelte:head><title>Retention schedule – Kovrel</title></svelte:head>

<div class="mb-2 flex flex-wrap items-end justify-between gap-4">
	<div>
		<div class="flex items-center gap-2">
			<h1>The retention schedule</h1>
			<Explain word="series" />
		</div>
		<p class="mt-0.5 max-w-3xl">
			One line a records series: what starts its period, how long it is, what happens at the end, and which law or
			decision requires it. A change makes a new version, with its date and reason.
		</p>
	</div>
	<div class="flex gap-2">
		{#if isAdministrator}<button class="act" type="button" onclick={() => edit(undefined)}>New series</button>{/if}
		{#if data.series.length > 0}<a class="quiet" href="/retain/schedule/csv" download>As CSV</a>{/if}
	</div>
</div>
{#if answer?.message}<p class="wrong mb-2 whitespace-pre-line" role="alert">{answer.message}</p>{/if}
{#if answer?.removed}<p role="status" class="mb-2">{answer.removed} was removed from the schedule.</p>{/if}
{#if answer?.imported}
	<p role="status" class="mb-2">
		{showCount(answer.imported.made.length)} made, {showCount(answer.imported.changed.length)} changed, {showCount(
			answer.imported.same
		)} as they were.
		{#if answer.imported.notNamed.length > 0}Kept, though not in the file: {answer.imported.notNamed.join(', ')}.{/if}
	</p>
{/if}

{#if data.series.length === 0}
	<div class="bg-sheet border-rule-strong mb-3 border p-5">
		<p class="mb-3">
			There is no schedule yet. Make series one by one, import a CSV file, or begin with an example, and replace its
			made-up periods with your own.
		</p>
		{#if isAdministrator}<form method="post" action="?/starter" use:enhance>
				<button class="quiet">Begin with the example</button>
			</form>{/if}
	</div>
{:else}
	<table class="sheet">
		<thead
			><tr
				><th>Code</th><th>Title</th><th>Counted from</th><th class="number">Period</th><th>At the end</th><th
					>Authority</th
				><th>Owner</th><th class="number">With a due date</th><th class="number">Version</th></tr
			></thead
		>
		<tbody>
			{#each data.series as series (series.id)}
				<tr>
					<td class="whitespace-nowrap"
						><button class="lead font-semibold" type="button" onclick={() => edit(series)}>{series.code}</button></td
					>
					<td class="name" title={series.description}>{series.title}</td>
					<td class="text-sm">{series.terms.disposition === 'keep' ? '' : TRIGGER_WORDS[series.terms.trigger]}</td>
					<td class="number"
						>{series.terms.period ? periodWords(series.terms.period) : 'permanent'}{#if series.terms.archiveAfter}<span
								class="text-ink-soft block text-xs">archive after {periodWords(series.terms.archiveAfter)}</span
							>{/if}</td
					>
					<td class="text-sm">{DISPOSITION_WORDS[series.terms.disposition]}</td>
					<td class="name text-sm">{series.authority}</td>
					<td class="name text-sm">{series.owner}</td>
					<td class="number">{showCount(series.messages)}</td>
					<td class="number">{series.version}</td>
				</tr>
			{/each}
		</tbody>
	</table>
{/if}

{#if isAdministrator}<form
		method="post"
		action="?/bringIn"
		enctype="multipart/form-data"
		use:enhance
		class="bg-sheet border-rule-strong mt-3 flex flex-wrap items-end gap-3 border p-3 text-sm"
	>
		<label class="flex flex-col gap-1"
			>A schedule as CSV <input class="field" type="file" name="file" accept=".csv,text/csv" /></label
		>
		<label class="flex flex-col gap-1"
			>Why <input class="field w-72" name="because" maxlength="1000" placeholder="Board, 3 November" /></label
		>
		<button class="quiet">Import it</button>
		<span class="text-ink-soft"
			>columns: code, title, description, trigger, period (P7Y), disposition, archive_after, authority, owner</span
		>
	</form>{/if}

<div class="mt-5 mb-1 flex flex-wrap items-end justify-between gap-4">
	<div>
		<h2>Classes</h2>
		<p class="mt-0.5 max-w-3xl text-sm">
			A class says how mail is kept as a record. Folders set the class of their mail, and single messages may differ.
			The period of a class applies only to mail in a folder without one.
		</p>
	</div>
	{#if isAdministrator}<button class="quiet" type="button" onclick={() => (classing = { word: undefined })}
			>New class</button
		>{/if}
</div>
{#each overQuota as over (over)}<p class="wrong mb-2" role="status">{over}</p>{/each}
<table class="sheet" aria-label="Classes">
	<thead
		><tr
			><th class="w-16">Letter</th><th>Class</th><th>Period</th><th class="number">Quota in each mailbox</th><th
				>Protected</th
			><th class="number">Messages</th></tr
		></thead
	>
	<tbody>
		{#each data.classRows as of (of.word)}
			<tr>
				<td class="font-semibold">{of.letter}</td>
				<td
					>{#if isAdministrator}<button
							class="lead font-semibold"
							type="button"
							onclick={() => (classing = { word: of.word })}>{of.name}</button
						>{:else}{of.name}{/if}</td
				>
				<td class="text-sm">{of.period || 'none'}{of.series ? ` (series ${of.series})` : ''}</td>
				<td class="number">{of.quotaBytes === undefined ? 'none' : showBytes(of.quotaBytes)}</td>
				<td>{of.isProtected ? 'as records' : 'no'}</td>
				<td class="number"
					>{#if of.word === UNCLASSED}<span class="text-ink-soft">all other mail</span
						>{:else if mailboxId !== undefined && isAdministrator}<a
							class="lead"
							href="/m/{mailboxId}/archive?all=1&q={encodeURIComponent(`class:${of.word}`)}">{showCount(of.messages)}</a
						>{:else}{showCount(of.messages)}{/if}</td
				>
			</tr>
		{/each}
	</tbody>
</table>

<Drawer
	open={classing !== undefined}
	onClose={() => (classing = undefined)}
	title={classed ? `Class ${classed.name}` : 'A new class'}
>
	{#key classing}
		<div class="flex min-h-0 flex-col gap-3 overflow-auto">
			<ClassForm
				known={classed}
				classes={data.classRows}
				series={data.series}
				onDone={(over) => {
					overQuota = over;
					classing = undefined;
				}}
			/>
		</div>
	{/key}
</Drawer>

<Drawer
	open={editing !== undefined}
	onClose={() => (editing = undefined)}
	title={editing === 'new' ? 'A new series' : `Series ${editing ?? ''}`}
>
	{#key editing}
		<div class="flex min-h-0 flex-col gap-3 overflow-auto">
			{#if isAdministrator}<div class="grid gap-3 sm:grid-cols-[10rem_1fr]">
					<label class="flex flex-col gap-1 text-sm"
						>Code <input class="field" bind:value={code} maxlength="40" disabled={editing !== 'new'} /></label
					>
					<label class="flex flex-col gap-1 text-sm"
						>Title <input class="field" bind:value={title} maxlength="200" /></label
					>
				</div>
				<label class="flex flex-col gap-1 text-sm"
					>Mail that belongs to it <textarea class="field" rows="2" bind:value={description} maxlength="2000"
					></textarea></label
				>
				<div class="flex flex-wrap items-end gap-3"><TermsFields from={known?.terms} bind:terms /></div>
				<div class="grid gap-3 sm:grid-cols-2">
					<label class="flex flex-col gap-1 text-sm"
						>Authority: the law or decision it rests on <input
							class="field"
							bind:value={authority}
							maxlength="1000"
						/></label
					>
					<label class="flex flex-col gap-1 text-sm"
						>Owner <input class="field" bind:value={owner} maxlength="200" /></label
					>
				</div>
				{#if fields && isChanged}
					<RetentionChange
						{fields}
						words={`Mail under ${code} is ${termsWords(readTerms(terms ?? ''))}.`}
						look="/retain/schedule?/look"
						save="/retain/schedule?/save"
						asksReason={editing !== 'new'}
						onSaved={() => (editing = undefined)}
						onLeft={() => (editing = undefined)}
					/>
				{:else if !fields}
					<p class="text-ink-soft text-sm">A code, a title and a period make a series.</p>
				{/if}{/if}
			{#if known}
				<section aria-label="Versions">
					<h3 class="mb-1">Versions</h3>
					<table class="sheet">
						<thead
							><tr><th class="number">Version</th><th>Since</th><th>What it says</th><th>Because</th><th>By</th></tr
							></thead
						>
						<tbody>
							{#each data.versions as version (version.version)}
								<tr
									><td class="number">{version.version}</td><td class="whitespace-nowrap">{showDate(version.since)}</td
									><td class="text-sm">{version.title}: {termsWords(version.terms)}</td><td class="text-sm"
										>{version.because}</td
									><td class="text-sm">{version.madeBy}</td></tr
								>
							{/each}
						</tbody>
					</table>
				</section>
				{#if !isAdministrator}<p class="text-sm">{known.description}</p>{:else if known.uses === 0}
					<RemovalForm
						action="?/remove"
						words="Remove from the schedule"
						fields={{ code: known.code }}
						onRemoved={() => (editing = undefined)}
					/>
				{:else}
					<p class="text-ink-soft text-sm">
						It is set in {showCount(known.uses)}
						{known.uses === 1 ? 'place' : 'places'}, and so stays on the schedule.
					</p>
				{/if}
			{/if}
		</div>
	{/key}
</Drawer>
