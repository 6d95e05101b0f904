<script lang="ts">
	import DownloadIcon from '@lucide/svelte/icons/download';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import MessageSheet from '$lib/components/sheet/MessageSheet.svelte';
	import DidYouMean from '$lib/components/forms/DidYouMean.svelte';
	import SavedSearches from '$lib/components/forms/SavedSearches.svelte';
	import SaveSearch from '$lib/components/forms/SaveSearch.svelte';
	import SearchBox from '$lib/components/forms/SearchBox.svelte';
	import SearchKeys from '$lib/components/forms/SearchKeys.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showBytes, showCount, showMessages } from '../../../../core/weigh/units.ts';

	let { data, form } = $props();

	function go(change: Record<string, string | undefined>, replace = false) {
		const address = new URL(page.url);
		address.searchParams.delete('page');
		for (const [name, value] of Object.entries(change))
			if (value === undefined || value === '') address.searchParams.delete(name);
			else address.searchParams.set(name, value);
		void goto(address, { keepFocus: true, noScroll: true, replaceState: replace });
	}
	const search = (q: string, done: boolean) => go({ q, typing: done ? undefined : '1' }, !done);
	const saved = $derived((form as { saved?: string } | null)?.saved);
	const ORDERS = {
		'': 'best first',
		newest: 'newest first',
		oldest: 'oldest first',
		largest: 'largest first',
		sender: 'by sender',
		subject: 'by subject',
		importance: 'important first',
		attachments: 'most attachments first'
	};
</script>

<svelte:head><title>Archive of {data.mailbox.name} – Kovrel</title></svelte:head>

<h1 class="mb-3">Find and restore</h1>
<SearchBox value={data.asked.q} onSearch={search} />
<div class="mt-2 flex flex-wrap items-center gap-4 text-sm">
	<label class="flex items-center gap-1"
		>Where
		<select
			class="field py-0.5"
			value={data.asked.where}
			onchange={(event) => go({ where: event.currentTarget.value })}
		>
			<option value="everywhere">everywhere</option>
			<option value="archived">in the archive</option>
			<option value="binned">in the bin</option>
		</select></label
	>
	<label class="flex items-center gap-1"
		>Order
		<select class="field py-0.5" value={data.asked.sort} onchange={(event) => go({ sort: event.currentTarget.value })}>
			{#each Object.entries(ORDERS) as [order, name] (order)}<option value={order}>{name}</option>{/each}
			{#if !(data.asked.sort in ORDERS)}<option value={data.asked.sort}>by the heading</option>{/if}
		</select></label
	>
	<label class="flex items-center gap-2"
		><input
			type="checkbox"
			checked={data.asked.all !== ''}
			onchange={(event) => go({ all: event.currentTarget.checked ? '1' : undefined })}
		/> all mailboxes</label
	>
	<details class="text-ink-soft">
		<summary class="cursor-pointer">Search syntax</summary>
		<SearchKeys />
	</details>
	{#if data.asked.q !== '' || data.question.includes('=')}<span class="ml-auto"
			><SaveSearch question={data.question} /></span
		>{/if}
</div>
<Refused message={data.refused} />
{#if saved}<p role="status">The search is saved as <b>{saved}</b>.</p>{/if}
{#if data.saved.length > 0}
	<details class="mb-1">
		<summary class="cursor-pointer font-semibold">Saved searches</summary>
		<div class="max-w-md"><SavedSearches saved={data.saved} address="/m/{data.mailbox.id}/archive" /></div>
	</details>
{/if}

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

{#if data.sheet}
	<MessageSheet sheet={data.sheet} answer={form}>
		{#snippet empty()}
			{#if data.asked.q}Nothing was found. Fewer words, or searching everywhere and in all mailboxes, finds more.
				<DidYouMean nearly={data.nearly} onSearch={(query) => search(query, true)} />{:else}Archived mail shows here. To
				begin, <a class="lead" href="/m/{data.mailbox.id}/clear">archive old mail</a>.{/if}
		{/snippet}
		{#snippet below(ids)}
			<form method="post" action="/export" class="mt-3 flex items-center gap-2 text-sm">
				<input type="hidden" name="mailbox" value={data.asked.all ? '' : data.mailbox.name} />
				<input type="hidden" name="q" value={data.asked.q} />
				<input type="hidden" name="typing" value={data.asked.typing} />
				<input type="hidden" name="where" value={data.asked.where} />
				{#each ids as id (id)}<input type="hidden" name="id" value={id} />{/each}
				<label
					>Download as
					<select class="field ml-1 py-0.5" name="format">
						<option value="eml">EML files</option>
						<option value="mbox">mbox files, one a folder</option>
						<option value="maildir">a Maildir, with flags</option>
					</select></label
				>
				<button class="quiet text-sm"
					><DownloadIcon size={14} aria-hidden="true" /> Download {ids.length > 0
						? showMessages(ids.length)
						: `${data.sheet.totalIsMore ? 'more than ' : 'all '}${showMessages(data.sheet.total)}`} as a zip file</button
				>
				<span class="text-ink-soft">with a list of them as CSV; byte for byte as they came in</span>
			</form>
		{/snippet}
	</MessageSheet>
{/if}
