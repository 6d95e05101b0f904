<script lang="ts">
	import DateField from '$lib/components/forms/DateField.svelte';
	import { goto } from '$app/navigation';
	import ClassMark from '$lib/components/message/ClassMark.svelte';
	import RetentionChange from '$lib/components/forms/RetentionChange.svelte';
	import TermsFields from '$lib/components/forms/TermsFields.svelte';
	import type { RetentionSetting } from '$lib/server/retention/index.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { termsWords } from '../../../core/retention/sentences.ts';
	import { readTerms } from '../../../core/retention/terms.ts';
	import { showCount } from '../../../core/weigh/units.ts';

	let { data } = $props();

	type Part = 'series' | 'period' | 'class' | 'closed' | 'none';
	let selected = $state<Set<number>>(new Set());
	let last = $state<number>();
	/*
	 * The scope: the selected folders, a mailbox's other folders, all folders of a name, or all folders of a mailbox.
	 */
	let subject = $state<'folders' | 'default' | 'named' | 'reset'>('folders');
	let part = $state<Part>();
	let code = $state('');
	let terms = $state<string>();
	let as = $state('inherited');
	const classed = $derived(data.classes.find(({ word }) => word === as));
	let closedOn = $state('');
	let name = $state('');
	let dragging = $state(false);
	let over = $state<string>();
	let saved = $state(false);
	let overQuota = $state.raw<string[]>([]);

	const all = $derived(data.retained.flatMap(({ folders }) => folders));
	const mailboxId = $derived(data.retained[0]?.mailboxId);
	const mailbox = $derived(data.retained[0]?.mailbox ?? '');

	const retention = $derived.by(() => {
		if (part === 'series') return code ? ({ series: code } as const) : undefined;
		if (part === 'period') return terms ? ({ terms } as const) : undefined;
		return part === 'none' ? ('none' as const) : undefined;
	});
	const wish = $derived.by((): RetentionSetting | undefined => {
		if (subject === 'reset') return mailboxId === undefined ? undefined : { kind: 'reset', mailboxId };
		const recordClass = part === 'class' ? { class: as === 'inherited' ? null : as } : {};
		const given = retention === undefined ? {} : { retention };
		const closed = part === 'closed' ? { closedOn: closedOn || null } : {};
		const says = Object.keys({ ...recordClass, ...given, ...closed }).length > 0;
		if (!says) return undefined;
		switch (subject) {
			case 'folders':
				return selected.size === 0
					? undefined
					: { kind: 'folders', folderIds: [...selected], ...recordClass, ...given, ...closed };
			case 'default':
				return mailboxId === undefined || retention === undefined
					? undefined
					: { kind: 'default', mailboxId, retention };
			case 'named':
				return name.trim() === '' ? undefined : { kind: 'named', name, ...recordClass, ...given };
		}
	});
	const to = $derived.by(() => {
		if (part === 'series') return `goes under series ${code}`;
		if (part === 'period') return terms ? `is to be ${termsWords(readTerms(terms))}` : '';
		if (part === 'class')
			return as === 'inherited' ? 'is of the class it inherits' : `is of the class “${classed?.name ?? as}”`;
		if (part === 'closed')
			return closedOn ? `is that of folders closed on ${showDate(closedOn)}` : 'is that of open folders again';
		return 'goes back under what is inherited';
	});
	const words = $derived.by(() => {
		if (subject === 'reset') return `Every folder of ${mailbox} goes back under its default`;
		const who = {
			folders: `The mail of ${showCount(selected.size)} ${selected.size === 1 ? 'folder' : 'folders'}`,
			default: `The rest of ${mailbox}`,
			named: `The mail of every folder called “${name.trim()}”, in all mailboxes,`
		}[subject];
		return `${who} ${to}`;
	});

	function toggle(id: number, event: MouseEvent | KeyboardEvent) {
		if (event.shiftKey && last !== undefined) {
			const [from, until] = [
				all.findIndex((folder) => folder.id === last),
				all.findIndex((folder) => folder.id === id)
			];
			const between = all.slice(Math.min(from, until), Math.max(from, until) + 1).map((folder) => folder.id);
			selected = new Set([...selected, ...between]);
		} else selected = new Set(selected.has(id) ? [...selected].filter((other) => other !== id) : [...selected, id]);
		last = id;
		subject = 'folders';
		saved = false;
	}

	function onKey(event: KeyboardEvent & { currentTarget: HTMLTableRowElement }, id: number) {
		if (event.target !== event.currentTarget) return;
		const step =
			event.key === 'ArrowDown' ? 'nextElementSibling' : event.key === 'ArrowUp' ? 'previousElementSibling' : undefined;
		if (event.key === ' ') toggle(id, event);
		else if (step) (event.currentTarget[step] as HTMLElement | null)?.focus();
		else return;
		event.preventDefault();
	}

	function showMailbox(event: Event & { currentTarget: HTMLSelectElement }) {
		selected = new Set();
		void goto(`/retain/folders?mailbox=${event.currentTarget.value}`);
	}

	function done(over: string[]) {
		overQuota = over;
		part = undefined;
		if (subject === 'reset') subject = 'folders';
		selected = new Set();
		saved = true;
	}
</script>

<svelte:head><title>Retention of folders – Kovrel</title></svelte:head>

<div class="mb-2 flex flex-wrap items-end justify-between gap-4">
	<div>
		<h1>What happens to the mail of each folder</h1>
		<p class="mt-0.5 max-w-3xl">
			Select folders, then set their series, period or class. Subfolders inherit it. Kovrel says what a change makes due
			before it is saved.
		</p>
	</div>
	{#if data.mailboxes.length > 0}
		<label class="flex items-center gap-2 text-sm"
			>Mailbox
			<select class="field" value={data.selected} onchange={showMailbox}>
				{#each data.mailboxes as { id, name } (id)}<option value={String(id)}>{name}</option>{/each}
				{#if data.mailboxes.length > 1}<option value="all">all mailboxes</option>{/if}
			</select></label
		>
	{/if}
</div>

<div
	class="bg-sheet border-rule-strong sticky top-0 z-20 mb-3 border p-3"
	class:hidden={data.mailboxes.length === 0}
	data-testid="change"
>
	<div class="flex flex-wrap items-end gap-3">
		<label class="flex flex-col gap-1 text-sm"
			>For
			<select class="field" bind:value={subject}>
				<option value="folders"
					>{showCount(selected.size)} {selected.size === 1 ? 'selected folder' : 'selected folders'}</option
				>
				<option value="named">every folder named …</option>
				{#if data.selected !== 'all'}
					<option value="default">the rest of {mailbox} (its default)</option>
					<option value="reset">all of {mailbox}: reset to the default</option>
				{/if}
			</select></label
		>
		{#if subject === 'named'}
			<label class="flex flex-col gap-1 text-sm"
				>called <input class="field w-44" bind:value={name} maxlength="200" placeholder="Contracts" /></label
			>
		{/if}
		{#if subject !== 'reset'}
			<label class="flex flex-col gap-1 text-sm"
				>set
				<select class="field" bind:value={part} disabled={subject === 'folders' && selected.size === 0}>
					<option value={undefined}>select …</option>
					<option value="series">a series</option>
					<option value="period">a plain period</option>
					{#if subject === 'folders' || subject === 'named'}<option value="class">a class</option>{/if}
					{#if subject === 'folders'}<option value="closed">the day it was closed</option>{/if}
					<option value="none">{subject === 'folders' ? 'nothing of its own' : 'nothing'}</option>
				</select></label
			>
			{#if part === 'series'}
				<label class="flex flex-col gap-1 text-sm"
					>Series
					<select class="field" bind:value={code}>
						<option value="">select …</option>
						{#each data.seriesNames as { code: of, title } (of)}<option value={of}>{of} {title}</option>{/each}
					</select></label
				>
				{#if data.seriesNames.length === 0}<a class="lead pb-1.5 text-sm" href="/retain/schedule"
						>make a schedule first</a
					>{/if}
			{:else if part === 'period'}
				<TermsFields bind:terms />
			{:else if part === 'class'}
				<label class="flex flex-col gap-1 text-sm"
					>Class
					<select class="field" bind:value={as}>
						<option value="inherited">as inherited</option>
						{#each data.classes as { word, name } (word)}<option value={word}>{name}</option>{/each}
					</select></label
				>
			{:else if part === 'closed'}
				<label class="flex flex-col gap-1 text-sm">closed on <DateField bind:value={closedOn} about="past" /></label>
			{/if}
		{/if}
		{#if selected.size > 0}
			<button class="quiet text-sm" type="button" onclick={() => (selected = new Set())}>Clear selection</button>
		{/if}
		{#if saved}<p role="status" class="pb-1.5 text-sm">
				The change is saved.{#each overQuota as over (over)}&ensp;<b class="text-wax">{over}</b>{/each}
			</p>{/if}
	</div>
	{#if wish && words}
		<RetentionChange
			fields={{ wish: JSON.stringify(wish) }}
			{words}
			look="/retain/folders?/look"
			save="/retain/folders?/save"
			onSaved={done}
			onLeft={() => {
				part = undefined;
				if (subject === 'reset') subject = 'folders';
			}}
		/>
	{/if}
</div>

{#if data.retained.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		There is no mailbox yet. <a class="lead" href="/mailboxes">Import mail</a> first.
	</p>
{/if}
{#each data.retained as of (of.mailboxId)}
	<section class="mb-4" aria-label="Folders of {of.mailbox}">
		{#if data.retained.length > 1}<h2 class="mb-1">{of.mailbox}</h2>{/if}
		<p class="mb-1 text-sm">
			{of.default
				? `Unless a folder says otherwise, mail is ${of.default}.`
				: 'No default is set: mail stays unless its folder, a folder name or its class has a period.'}
			{#if of.isBeingApplied}<b class="text-wax">Settings are still being applied.</b>{/if}
		</p>
		<table class="sheet">
			<thead
				><tr
					><th class="w-9"><span class="sr-only">Select</span></th><th class="w-60">Folder</th><th class="w-28"
						>Class</th
					><th>What happens to its mail, and why</th><th class="number w-28">Messages</th></tr
				></thead
			>
			<tbody>
				{#each of.folders as folder (folder.id)}
					<tr
						tabindex="0"
						onkeydown={(event) => onKey(event, folder.id)}
						draggable="true"
						ondragstart={(event) => {
							if (!selected.has(folder.id)) selected = new Set([folder.id]);
							subject = 'folders';
							event.dataTransfer?.setData('text/plain', folder.path);
							dragging = true;
						}}
						ondragend={() => {
							dragging = false;
							over = undefined;
						}}
						aria-selected={selected.has(folder.id)}
					>
						<td
							><input
								type="checkbox"
								tabindex="-1"
								checked={selected.has(folder.id)}
								onclick={(event) => toggle(folder.id, event)}
								aria-label="Select {folder.path}"
							/></td
						>
						<td class="name" style:padding-left="{10 + folder.depth * 18}px" title={folder.path}
							><span class:font-semibold={folder.isOwn}>{folder.name}</span>{#if folder.closedOn}<span
									class="text-ink-soft block text-xs">closed {folder.closedOn}</span
								>{/if}</td
						>
						<td><ClassMark of={folder.class} /></td>
						<td class="text-sm">{folder.sentence}</td>
						<td class="number"
							><a
								class="lead"
								tabindex="-1"
								href="/m/{of.mailboxId}/folders/{folder.id}"
								aria-label="{showCount(folder.messages)} messages of {folder.path}">{showCount(folder.messages)}</a
							></td
						>
					</tr>
				{/each}
			</tbody>
		</table>
	</section>
{/each}
{#if data.named.length > 0}
	<h2 class="mt-2 mb-1">By the name of the folder, in all mailboxes</h2>
	<table class="sheet">
		<thead><tr><th>Called</th><th>Under</th><th>Class</th></tr></thead>
		<tbody>
			{#each data.named as named (named.name)}
				<tr
					><td class="name font-semibold">{named.name}</td><td>{named.label || 'nothing'}</td><td
						>{#if named.class}<ClassMark of={named.class} />{/if}</td
					></tr
				>
			{/each}
		</tbody>
	</table>
{/if}

{#if dragging}
	<aside class="drop-rail" aria-label="Where to drop">
		<p class="h-16 shrink-0 font-semibold" role="status">
			{over
				? `Drop ${showCount(selected.size)} ${selected.size === 1 ? 'folder' : 'folders'} under ${over}. Kovrel says first what that changes.`
				: 'Drop them on a series.'}
		</p>
		{#each data.seriesNames as { code: of, title } (of)}
			<div
				class="drop-target"
				class:over={over === of}
				role="listitem"
				ondragover={(event) => {
					event.preventDefault();
					over = of;
				}}
				ondrop={(event) => {
					event.preventDefault();
					part = 'series';
					code = of;
				}}
			>
				<b>{of}</b>
				{title}
			</div>
		{/each}
	</aside>
{/if}
