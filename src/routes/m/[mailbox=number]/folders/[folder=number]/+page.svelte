<script lang="ts">
	import MessageSheet from '$lib/components/sheet/MessageSheet.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showBytes, showCount, showMessages } from '../../../../../core/weigh/units.ts';

	let { data, form } = $props();

	const base = $derived(`/m/${data.mailbox.id}`);
	const found = (query: string) => `${base}/archive?where=archived&q=${encodeURIComponent(query)}`;
</script>

<svelte:head><title>{data.folder.path} – {data.mailbox.name} – Kovrel</title></svelte:head>

<nav class="text-sm" aria-label="Where this is">
	<a class="lead" href="{base}/clear/folders">Folders of {data.mailbox.name}</a>
</nav>
<h1>{data.folder.path}</h1>
<p class="text-ink-soft mt-1 text-sm">
	{showMessages(data.folder.messages)} ({showBytes(
		data.folder.bytes
	)}){#if data.folder.messagesBelow > data.folder.messages}; {showMessages(data.folder.messagesBelow)} ({showBytes(
			data.folder.bytesBelow
		)}) with subfolders{/if}.
	<a class="lead" href="{base}/clear?folder={encodeURIComponent(data.folder.path)}">Archive its old mail</a>
	· <a class="lead" href="{base}/clear/folders?folder={data.folder.id}">rename, merge, pause …</a>
	· <a class="lead" href={found(`folder:"${data.folder.path}"`)}>archived mail from here</a>
</p>
{#if data.subfolders.length > 0}
	<p class="mt-1 flex flex-wrap gap-x-4 text-sm">
		{#each data.subfolders as subfolder (subfolder.id)}
			<span
				><a class="lead" href="{base}/folders/{subfolder.id}">{subfolder.name}</a>
				<span class="text-ink-soft">{showCount(subfolder.messagesBelow)}</span></span
			>
		{/each}
	</p>
{/if}

{#if data.sheet}
	<MessageSheet sheet={data.sheet} hasPlaces={false} answer={form}>
		{#snippet empty()}
			No message lies in this folder itself.
			<a class="lead" href={found(`folder:"${data.folder.path}"`)}>Archived mail that came from here</a>
		{/snippet}
	</MessageSheet>
{:else}
	<Refused message={data.refused} />
{/if}
