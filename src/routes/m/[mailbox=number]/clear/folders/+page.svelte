<script lang="ts">
	import DateField from '$lib/components/forms/DateField.svelte';
	import { enhance } from '$lib/enhance.ts';
	import { page } from '$app/state';
	import Refused from '$lib/components/forms/Refused.svelte';
	import ShareBar from '$lib/components/charts/ShareBar.svelte';
	import TagMark from '$lib/components/message/TagMark.svelte';
	import { showDate } from '../../../../../core/calendar.ts';
	import { showBytes, showCount, showMessages } from '../../../../../core/weigh/units.ts';

	let { data, form } = $props();

	type Folder = (typeof data.folders)[number];

	const isArchive = $derived(data.tree === 'archive');
	const answer = $derived(form as { message?: string; said?: string } | null);
	const heaviest = $derived(Math.max(1, ...data.folders.map(({ bytesBelow }) => bytesBelow)));
	const hrefOf = ({ id, path }: Folder) =>
		isArchive
			? `/m/${data.mailbox.id}/archive?where=archived&q=${encodeURIComponent(`folder:"${path}"`)}`
			: `/m/${data.mailbox.id}/folders/${id}`;
	const pauseOf = (folder: Folder) => data.pauses.find(({ folderId }) => folderId === folder.id);

	/* The address names a tree and a folder: the same ones, loaded anew, leave the selected folder selected. */
	const tree = $derived(data.tree);
	const linked = $derived(Number(page.url.searchParams.get('folder')) || undefined);
	let selected = $derived.by(() => {
		void tree;
		return linked;
	});
	const folder = $derived(data.folders.find(({ id }) => id === selected));
	let dragged = $state<Folder>();
	/* What dropping here would do, shown before it is done. */
	let target = $state<{ folder?: Folder; tag?: { id: number; name: string } }>();
	let dropForm = $state<HTMLFormElement>();
	let drop = $state<{ folder: string; to: string; decision?: 'tag' }>({ folder: '', to: '' });
	// the address tells which tree is shown
	const action = (name: string) => `?/${name}${isArchive ? '&tree=archive' : ''}`;

	const promise = $derived.by(() => {
		if (!dragged || !target) return '';
		const what = `the ${showMessages(dragged.messagesBelow)} of ${dragged.path}`;
		if (target.tag)
			return `Let go: put on the docket that ${what} are tagged “${target.tag.name}”. They stay where they are.`;
		return target.folder && target.folder.id !== dragged.id
			? `Let go: put on the docket that ${what} move into ${target.folder.path}.`
			: '';
	});

	function letGo(event: DragEvent) {
		event.preventDefault();
		if (dragged && target?.tag) drop = { folder: dragged.path, to: target.tag.name, decision: 'tag' };
		else if (dragged && target?.folder && target.folder.id !== dragged.id)
			drop = { folder: dragged.path, to: target.folder.path };
		else return;
		dragged = undefined;
		target = undefined;
		queueMicrotask(() => dropForm?.requestSubmit());
	}

	function onKey(event: KeyboardEvent & { currentTarget: HTMLTableRowElement }, id: number) {
		if (event.target !== event.currentTarget) return;
		const step =
			event.key === 'ArrowDown' ? 'nextElementSibling' : event.key === 'ArrowUp' ? 'previousElementSibling' : undefined;
		if (event.key === ' ' || event.key === 'Enter') selected = selected === id ? undefined : id;
		else if (step) (event.currentTarget[step] as HTMLElement | null)?.focus();
		else return;
		event.preventDefault();
	}
</script>

<svelte:head><title>Folders of {data.mailbox.name} – Kovrel</title></svelte:head>

<h1>Folders</h1>
<p class="mt-1 mb-2 max-w-3xl">
	The name opens the messages. Select a folder to see its actions, or drag it onto another folder{isArchive
		? ''
		: ' or a tag'}. Where messages move, it goes through the docket; names change at once.
</p>
<nav class="mb-3 flex gap-4" aria-label="Which folders">
	<a class="lead" href="?" aria-current={isArchive ? undefined : 'page'}>of the mailbox</a>
	<a class="lead" href="?tree=archive" aria-current={isArchive ? 'page' : undefined}>of the archive</a>
</nav>
<Refused message={answer?.message} />
{#if answer?.said}<p role="status" class="mb-2">{answer.said}</p>{/if}

<form method="post" action={action(drop.decision ? 'decide' : 'merge')} bind:this={dropForm} use:enhance class="hidden">
	<input type="hidden" name="folder" value={drop.folder} />
	<input type="hidden" name="to" value={drop.to} />
	{#if drop.decision}<input type="hidden" name="decision" value={drop.decision} />{/if}
</form>

{#if isArchive}
	<p class="bg-sheet border-rule-strong mb-3 max-w-3xl border p-3">
		An archive folder exists while mail lies in it. Access and retention follow the folder that the mail came from:
		moving it here changes neither, and restoring returns it there.
	</p>
{:else}
	<form
		method="post"
		action="?/make"
		use:enhance
		class="bg-sheet border-rule-strong mb-3 flex flex-wrap items-end gap-3 border p-3"
	>
		<label class="flex flex-col gap-1"
			><span class="text-sm font-semibold">A new folder, with its path</span>
			<input class="field w-72" name="folder" required maxlength="2000" placeholder="Contracts/2026" /></label
		>
		<button class="act">Create it</button>
		<div class="ml-auto flex flex-wrap items-center gap-1.5" role="list" aria-label="Tags to drop a folder on">
			{#each data.tags as tag (tag.id)}
				<span
					role="listitem"
					class="rounded p-0.5"
					class:over={target?.tag?.id === tag.id}
					ondragover={(event) => {
						event.preventDefault();
						target = { tag };
					}}
					ondragleave={() => (target = undefined)}
					ondrop={letGo}><TagMark {tag} /></span
				>
			{/each}
		</div>
	</form>
{/if}

<p class="min-h-6 text-sm font-semibold" role="status" aria-live="polite">{promise}</p>

<div class="grid items-start gap-4 *:min-w-0 lg:grid-cols-[minmax(0,1fr)_17rem]">
	<table class="sheet">
		<thead
			><tr
				><th>Folder</th><th class="number">Messages</th><th class="number">With subfolders</th><th class="number"
					>Size</th
				><th class="w-24">Share</th></tr
			></thead
		>
		<tbody>
			{#each data.folders as row (row.id)}
				{@const pause = pauseOf(row)}
				<tr
					tabindex="0"
					draggable="true"
					aria-selected={row.id === selected}
					class:over={target?.folder?.id === row.id && dragged?.id !== row.id}
					onclick={() => (selected = row.id)}
					onkeydown={(event) => onKey(event, row.id)}
					ondragstart={(event) => {
						dragged = row;
						event.dataTransfer?.setData('text/plain', row.path);
					}}
					ondragend={() => {
						dragged = undefined;
						target = undefined;
					}}
					ondragover={(event) => {
						event.preventDefault();
						target = { folder: row };
					}}
					ondrop={letGo}
				>
					<td style:padding-left="{10 + row.depth * 18}px"
						><a class="lead" tabindex="-1" href={hrefOf(row)}>{row.name}</a>{#if pause}<span
								class="text-wax ml-2 text-xs"
								title={pause.because}>P paused to {showDate(pause.until)}</span
							>{/if}{#if row.neverArchived}<span class="text-wax ml-2 text-xs">never archived</span>{/if}</td
					>
					<td class="number">{showCount(row.messages)}</td>
					<td class="number">{showCount(row.messagesBelow)}</td>
					<td class="number">{showBytes(row.bytesBelow)}</td>
					<td><ShareBar bytes={row.bytesBelow} whole={heaviest} /></td>
				</tr>
			{:else}
				<tr
					><td colspan="5" class="text-ink-soft"
						>{#if isArchive}Nothing is archived yet. To begin,
							<a class="lead" href="/m/{data.mailbox.id}/clear">archive old mail</a>.{:else}No folder yet.{/if}</td
					></tr
				>
			{/each}
		</tbody>
	</table>

	<section class="bg-sheet border-rule-strong flex flex-col gap-3 border p-3 text-sm" aria-label="Actions on a folder">
		{#if !folder}
			<p class="text-ink-soft">Select a folder with a click, or with ↑ ↓ and space.</p>
		{:else}
			{@const pause = pauseOf(folder)}
			<h2>{folder.path}</h2>
			<form method="post" use:enhance class="flex flex-col gap-1.5">
				<input type="hidden" name="folder" value={folder.path} />
				<label class="flex flex-col gap-1"
					>Name, or another path <input class="field" name="to" value={folder.path} required maxlength="2000" /></label
				>
				<button class="quiet justify-center" formaction={action('rename')} disabled={folder.role !== null}
					>Rename or move</button
				>
			</form>
			<form method="post" use:enhance class="flex flex-col gap-1.5">
				<input type="hidden" name="folder" value={folder.path} />
				{#if isArchive}
					<label class="flex flex-col gap-1"
						>Merge into (or a new folder)
						<input class="field" name="to" list="others" required maxlength="2000" autocomplete="off" /></label
					>
					<datalist id="others">
						{#each data.folders.filter(({ id }) => id !== folder.id) as other (other.id)}<option value={other.path}
							></option>{/each}
					</datalist>
				{:else}
					<label class="flex flex-col gap-1"
						>Merge into
						<select class="field" name="to">
							{#each data.folders.filter(({ id }) => id !== folder.id) as other (other.id)}<option value={other.path}
									>{other.path}</option
								>{/each}
						</select></label
					>
				{/if}
				<button class="quiet justify-center" formaction={action('merge')} disabled={folder.messagesBelow === 0}
					>Draft: move {showMessages(folder.messagesBelow)}</button
				>
			</form>
			<form method="post" use:enhance class="flex flex-col gap-1.5">
				<input type="hidden" name="folder" value={folder.path} />
				{#if !isArchive}
					<label class="flex items-center gap-1.5 text-xs"
						><input type="checkbox" name="closes" /> each closed on the last day of its year, for retention</label
					>
				{/if}
				<button class="quiet justify-center" formaction={action('perYear')} disabled={folder.messagesBelow === 0}
					>Draft: a folder per year</button
				>
				{#if !isArchive}
					<button
						class="quiet justify-center"
						name="decision"
						value="archive"
						formaction="?/decide"
						disabled={folder.messagesBelow === 0}>Draft: archive it whole</button
					>
					<button
						class="quiet justify-center"
						name="decision"
						value="delete"
						formaction="?/decide"
						disabled={folder.messagesBelow === 0}>Draft: empty it into the bin</button
					>
					<button
						class="quiet justify-center"
						formaction="?/remove"
						disabled={folder.messagesBelow > 0 || folder.role !== null}>Remove the empty folder</button
					>
				{/if}
			</form>
			{#if isArchive}
				<a
					class="quiet justify-center"
					href="/m/{data.mailbox.id}/archive?where=archived&q={encodeURIComponent(`folder:"${folder.path}"`)}"
					>Open its mail, or restore it</a
				>
			{:else if pause}
				<form method="post" use:enhance class="flex flex-col gap-1.5">
					<input type="hidden" name="folder" value={folder.path} />
					<p>Nothing here is deleted before {showDate(pause.until)}, because {pause.because}.</p>
					<button class="quiet justify-center" formaction="?/endPause">End the pause</button>
				</form>
			{:else}
				<form method="post" use:enhance class="flex flex-col gap-1.5">
					<input type="hidden" name="folder" value={folder.path} />
					<label class="flex flex-col gap-1">Not to be deleted before <DateField name="until" required /></label>
					<label class="flex flex-col gap-1"
						>because <input class="field" name="because" required maxlength="500" /></label
					>
					<button class="quiet justify-center" formaction="?/pause">Pause</button>
				</form>
			{/if}
			{#if data.tree === 'mailbox'}
				<form method="post" use:enhance class="flex flex-col gap-1.5">
					<input type="hidden" name="folder" value={folder.path} />
					{#if folder.neverArchived}
						<p>Its mail and that of its subfolders is never archived, by hand or by a scheduled run.</p>
						<button class="quiet justify-center" formaction="?/allowArchiving">Allow archiving</button>
					{:else}
						<button class="quiet justify-center" formaction="?/neverArchive">Never archive it</button>
					{/if}
				</form>
			{/if}
		{/if}
	</section>
</div>

<style>
	nav a[aria-current] {
		color: var(--ink);
		font-weight: 600;
		text-decoration: none;
	}
	tr[aria-selected='true'] {
		background: var(--stamp-soft);
	}
	.over {
		outline: 2px dashed var(--stamp);
		outline-offset: -2px;
	}
	tr {
		cursor: grab;
	}
</style>
