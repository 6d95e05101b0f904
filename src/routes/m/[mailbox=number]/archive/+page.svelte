<script lang="ts">
	import DownloadIcon from '@lucide/svelte/icons/download';
	import SearchIcon from '@lucide/svelte/icons/search';
	import type { SubmitFunction } from '@sveltejs/kit';
	import { enhance } from '$app/forms';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import FileLinks from '$lib/components/message/FileLinks.svelte';
	import Marked from '$lib/components/message/Marked.svelte';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import SearchKeys from '$lib/components/forms/SearchKeys.svelte';
	import PageTurner from '$lib/components/sheet/PageTurner.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import StateMark from '$lib/components/message/StateMark.svelte';
	import { showDate } from '../../../../core/calendar.ts';
	import { leftSentence } from '../../../../core/docket/left.ts';
	import { showBytes, showCount, showMessages } from '../../../../core/weigh/units.ts';

	let { data, form } = $props();

	let chosen = $state<number[]>([]);
	/* all that match, not only what is shown */
	let everything = $state(false);
	let open = $state<number>();
	let restoring = $state(false);
	let searchForm = $state<HTMLFormElement>();

	const hits = $derived(data.found?.hits ?? []);
	const toRestore = $derived(everything ? (data.found?.total ?? 0) : chosen.length);
	const pages = $derived(Math.ceil((data.found?.total ?? 0) / data.pageSize));

	// a choice reaches across the pages of one query, and ends with it
	const question = $derived(JSON.stringify([data.asked.q, data.asked.where, data.asked.all]));
	$effect(() => {
		void question;
		chosen = [];
		everything = false;
	});

	const submit = () => searchForm?.requestSubmit();

	/* The page follows what is written, without an entry in the browser's history for each letter. */
	let typing: ReturnType<typeof setTimeout> | undefined;
	function onType(event: Event & { currentTarget: HTMLInputElement }) {
		clearTimeout(typing);
		const address = new URL(page.url);
		address.searchParams.set('q', event.currentTarget.value);
		address.searchParams.set('typing', '1');
		address.searchParams.delete('page');
		typing = setTimeout(() => void goto(address, { keepFocus: true, noScroll: true, replaceState: true }), 250);
	}
	$effect(() => () => clearTimeout(typing));

	const submitRestore: SubmitFunction = () => {
		restoring = true;
		return async ({ result, update }) => {
			// what was restored is not selected any more: a second click would restore nothing
			if (result.type === 'success') {
				chosen = [];
				everything = false;
			}
			await update({ reset: false });
			restoring = false;
			open = undefined;
		};
	};

	/* Kept by id, as a group bound to the checkboxes would forget those of other pages. */
	function choose(id: number) {
		chosen = chosen.includes(id) ? chosen.filter((other) => other !== id) : [...chosen, id];
	}

	/* Space chooses the row, Enter opens it, the arrows walk. */
	function onRowKey(event: KeyboardEvent & { currentTarget: HTMLTableRowElement }, id: number) {
		if (event.target !== event.currentTarget) return;
		const step =
			event.key === 'ArrowDown' ? 'nextElementSibling' : event.key === 'ArrowUp' ? 'previousElementSibling' : undefined;
		const isLive = hits.find((hit) => hit.id === id)?.state === 'live';
		if (event.key === ' ' && !isLive && !everything) choose(id);
		else if (event.key === 'Enter') open = id;
		else if (step) (event.currentTarget[step] as HTMLElement | null)?.focus();
		else return;
		event.preventDefault();
	}
</script>

<svelte:head><title>Archive of {data.mailbox.name} – Kovrel</title></svelte:head>

<h1 class="mb-3">Find and restore</h1>
<form bind:this={searchForm} class="flex flex-wrap items-end gap-3" data-sveltekit-keepfocus role="search">
	<label class="flex min-w-72 flex-1 flex-col gap-1">
		<span class="text-sm font-semibold">Words in subject, text and names</span>
		<input
			class="field"
			type="search"
			name="q"
			value={data.asked.q}
			oninput={onType}
			placeholder="ramp &quot;car deck&quot; from:northfuel since:2023-01-01"
			aria-describedby="keys"
		/>
	</label>
	<label class="flex flex-col gap-1"
		><span class="text-sm font-semibold">Where</span>
		<select class="field" name="where" value={data.asked.where} onchange={submit}>
			<option value="everywhere">everywhere</option>
			<option value="archived">in the archive</option>
			<option value="binned">in the bin</option>
		</select>
	</label>
	<label class="flex flex-col gap-1"
		><span class="text-sm font-semibold">Order</span>
		<select class="field" name="sort" value={data.asked.sort} onchange={submit}>
			<option value="">best first</option>
			<option value="newest">newest first</option>
			<option value="oldest">oldest first</option>
			<option value="largest">largest first</option>
			<option value="sender">by sender</option>
			<option value="subject">by subject</option>
			<option value="importance">important first</option>
			<option value="attachments">most attached first</option>
		</select>
	</label>
	<label class="flex items-center gap-2 pb-1.5"
		><input type="checkbox" name="all" value="1" checked={data.asked.all !== ''} onchange={submit} /> all mailboxes</label
	>
	<button class="act"><SearchIcon size={16} aria-hidden="true" /> Find</button>
</form>
<details id="keys" class="text-ink-soft mt-1 text-sm">
	<summary class="cursor-pointer">
		<code>from:</code> <code>to:</code> <code>subject:</code> <code>since:</code> <code>before:</code>
		<code>attachment:</code> <code>"in a row"</code> <code>begin*</code> <code>not</code> <code>or</code> … all of the search
		syntax
	</summary>
	<SearchKeys />
</details>

<div class="mt-3 flex flex-col gap-2">
	<Refused message={data.refused ?? form?.message} />
	{#if form?.restored}
		<p class="border-stamp bg-stamp-soft border-l-4 px-3 py-2" role="status" data-testid="restored">
			{#if form.restored.restored === 0}Nothing was restored.{:else}{showMessages(form.restored.restored)} restored to where
				{form.restored.restored === 1 ? 'it' : 'they'} came from.{/if}
			{#each form.restored.left as entry (entry.reason)}
				{leftSentence(entry)}{/each}
			{#if form.restored.restored > 0}The docket on the right takes it back.{/if}
		</p>
	{/if}
</div>

{#if data.folders.length > 0 && data.asked.q === '' && data.asked.where === 'archived'}
	<details class="mb-2">
		<summary class="cursor-pointer font-semibold">The folders of the archive</summary>
		<p class="mt-1">
			<a class="lead" href="/m/{data.mailbox.id}/clear/folders?tree=archive">Rename, merge or divide them</a>
		</p>
		<table class="sheet mt-2">
			<thead><tr><th>Folder</th><th class="number">Messages</th><th class="number">Size</th></tr></thead>
			<tbody>
				{#each data.folders as folder (folder.id)}
					<tr>
						<td style:padding-left="{10 + folder.depth * 16}px">
							<a class="lead" href="?where=archived&q={encodeURIComponent(`folder:"${folder.path}"`)}">{folder.name}</a>
						</td>
						<td class="number">{showCount(folder.messagesBelow)}</td>
						<td class="number">{showBytes(folder.bytesBelow)}</td>
					</tr>
				{/each}
			</tbody>
		</table>
	</details>
{/if}

{#if data.found}
	<form method="post" action="?/restore" use:enhance={submitRestore}>
		<div class="flex items-center justify-between py-2">
			<p role="status" data-testid="total">
				<b>{data.found.totalIsMore ? 'More than ' : ''}{showMessages(data.found.total)}</b>{data.asked.q
					? ' found'
					: ''}{#if pages > 1}, page {data.asked.page} of {showCount(pages)}{/if}
			</p>
			<span class="text-ink-soft text-sm">↑ ↓ walk, space chooses, Enter opens</span>
			<div class="flex gap-2">
				{#if data.asked.where !== 'everywhere' && pages > 1 && !data.found.totalIsMore}
					<button class="quiet" type="button" aria-pressed={everything} onclick={() => (everything = !everything)}>
						{everything ? 'Clear selection' : `Select all ${showCount(data.found.total)}`}
					</button>
				{/if}
				<button class="act" disabled={toRestore === 0 || restoring}>
					{toRestore === 0 ? 'Restore: select messages first' : `Restore ${showMessages(toRestore)}`}
				</button>
			</div>
		</div>
		{#if everything}
			<input type="hidden" name="everything" value="1" />
			<input type="hidden" name="q" value={data.asked.q} />
			<input type="hidden" name="typing" value={data.asked.typing} />
			<input type="hidden" name="where" value={data.asked.where} />
			<input type="hidden" name="mailbox" value={data.asked.all ? '' : data.mailbox.name} />
		{:else}
			{#each chosen as id (id)}<input type="hidden" name="id" value={id} />{/each}
		{/if}
		{#if hits.length === 0}
			<p class="bg-sheet border-rule-strong border p-5">
				{#if data.asked.q}Nothing was found. Fewer words, or looking everywhere and in all mailboxes, finds more.{:else}Archived
					mail shows here. It gets here by a docket: <a class="lead" href="/m/{data.mailbox.id}/clear"
						>archive what is old</a
					>.{/if}
			</p>
		{:else}
			<table class="sheet table-fixed">
				<thead>
					<tr
						><th class="w-9"><span class="sr-only">Choose</span></th><th class="w-28">Received</th><th class="w-44"
							>From</th
						><th>Subject and text</th><th class="w-28">State</th><th class="number w-20">Size</th></tr
					>
				</thead>
				<tbody>
					{#each hits as hit (hit.id)}
						<tr
							tabindex="0"
							onkeydown={(event) => onRowKey(event, hit.id)}
							aria-label="{hit.subject || 'no subject'}, {hit.state}"
						>
							<td
								><input
									type="checkbox"
									aria-label="Choose {hit.subject || 'message without subject'}"
									value={hit.id}
									checked={chosen.includes(hit.id)}
									onchange={() => choose(hit.id)}
									disabled={hit.state === 'live' || everything}
									title={hit.state === 'live' ? 'It is in its folder already' : undefined}
									tabindex="-1"
								/></td
							>
							<td class="whitespace-nowrap"
								>{hit.receivedOn ? showDate(hit.receivedOn) : 'undated'}{#if hit.dateInDoubt}<span
										class="text-wax block text-xs">date in doubt</span
									>{/if}</td
							>
							<td class="truncate" title={hit.fromAddress}><Marked stretches={hit.markedFrom} /></td>
							<td>
								<button
									type="button"
									tabindex="-1"
									class="lead block max-w-full truncate text-left font-semibold"
									onclick={() => (open = hit.id)}
								>
									{#if hit.subject}<Marked stretches={hit.markedSubject} />{:else}(no subject){/if}
								</button>
								<span class="text-ink-soft block truncate text-sm"><Marked stretches={hit.context} /></span>
								<FileLinks id={hit.id} files={hit.files} onMore={() => (open = hit.id)} />
							</td>
							<td
								><StateMark state={hit.state} /><span
									class="text-ink-soft block truncate text-xs"
									title={hit.origin ?? hit.folder}>{hit.origin ?? hit.folder}</span
								></td
							>
							<td class="number">{showBytes(hit.bytes)}</td>
						</tr>
					{/each}
				</tbody>
			</table>
		{/if}
	</form>
	{#if hits.length > 0}
		<form method="post" action="/export" class="mt-3 flex items-center gap-2 text-sm">
			<input type="hidden" name="mailbox" value={data.asked.all ? '' : data.mailbox.name} />
			<input type="hidden" name="q" value={data.asked.q} />
			<input type="hidden" name="typing" value={data.asked.typing} />
			<input type="hidden" name="where" value={data.asked.where} />
			{#if !everything}{#each chosen as id (id)}<input type="hidden" name="id" value={id} />{/each}{/if}
			<label
				>Keep a copy as
				<select class="field ml-1 py-0.5" name="format">
					<option value="eml">EML files</option>
					<option value="mbox">mbox files, one a folder</option>
					<option value="maildir">a Maildir, with flags</option>
				</select></label
			>
			<button class="quiet text-sm"
				><DownloadIcon size={14} aria-hidden="true" /> Keep {chosen.length > 0 && !everything
					? showMessages(chosen.length)
					: `${data.found.totalIsMore ? 'more than ' : 'all '}${showMessages(data.found.total)}`} as a zip file</button
			>
			<span class="text-ink-soft">with a list of them as CSV; byte for byte as they came in</span>
		</form>
	{/if}
	<PageTurner at={data.asked.page} {pages} />
{/if}

<MessageDrawer bind:id={open}>
	{#snippet actions(message)}
		{#if message.state !== 'live'}
			<form method="post" action="?/restore" use:enhance={submitRestore}>
				<input type="hidden" name="id" value={message.id} />
				<button class="act text-sm" disabled={restoring}>Restore to {message.origin ?? 'the inbox'}</button>
			</form>
		{/if}
	{/snippet}
</MessageDrawer>
