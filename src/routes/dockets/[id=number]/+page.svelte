<script lang="ts">
	import { enhance } from '$app/forms';
	import DocketFolders from '$lib/components/DocketFolders.svelte';
	import LineMessages from '$lib/components/LineMessages.svelte';
	import DocketSlip from '$lib/components/DocketSlip.svelte';
	import Refused from '$lib/components/Refused.svelte';
	import { showMoment } from '$lib/moments.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { showBytes, showMessages } from '../../../core/weigh/units.ts';

	let { data, form } = $props();

	const mailbox = $derived(data.mailboxes.find(({ id }) => id === data.docket.mailboxId));
</script>

<svelte:head><title>Docket {data.docket.id} – Kovrel</title></svelte:head>

<div class="grid grid-cols-[minmax(0,1fr)_19rem] gap-5 px-5 py-4">
	<main class="min-w-0">
		<h1 class="mb-1">Docket {data.docket.id} for {data.docket.mailbox}</h1>
		<p class="text-ink-soft mb-3">Drafted {showMoment(data.docket.draftedAt)} by {data.docket.draftedBy}.</p>
		<div class="mb-4 flex flex-wrap items-end gap-3">
			<form method="post" action="?/name" use:enhance class="flex items-end gap-2">
				<label class="flex flex-col gap-1"
					><span class="text-sm font-semibold">What it is called</span>
					<input class="field w-80" name="name" value={data.docket.name} maxlength="200" /></label
				>
				<button class="quiet">Name it</button>
			</form>
			{#if data.docket.state === 'drafted'}
				<form method="post" action="?/recount" use:enhance><button class="quiet">Count again</button></form>
			{/if}
		</div>
		<Refused message={(form as { message?: string } | null)?.message} />
		<DocketFolders docket={data.docket} />
		<section class="mt-4" aria-label="Message by message">
			{#each data.docket.lines as line (line.id)}
				{@const of = data.docket.lists.find(({ lineId }) => lineId === line.id)}
				{#if of}
					<details class="mt-2">
						<summary class="cursor-pointer"><b>Line {line.position}, list by list:</b> {line.sentence}</summary>
						<ul class="mt-1 list-inside list-disc">
							{#each of.names as name, at (at)}<li>{name}</li>{/each}
						</ul>
					</details>
				{:else}
					<LineMessages docketId={data.docket.id} {line} />
				{/if}
			{/each}
		</section>
		{#if data.certificate}
			<section class="bg-sheet border-rule-strong mt-6 border p-4" aria-labelledby="certificate">
				<h2 id="certificate">Certificate of destruction {data.certificate.id}</h2>
				<p class="mt-1">
					{showMessages(data.certificate.messages)} ({showBytes(data.certificate.bytes)}) of {data.certificate.mailbox}
					{data.certificate.messages === 1 ? 'was' : 'were'} destroyed on {showMoment(data.certificate.madeAt)} by
					{data.certificate.madeBy}. Of each the certificate keeps its hash, its size and its date.
				</p>
				<table class="sheet mt-2">
					<thead
						><tr><th>SHA-256</th><th class="number">Size</th><th class="number">Received</th><th>Bytes</th></tr></thead
					>
					<tbody>
						{#each data.certificate.items as item (item.itemId)}
							<tr>
								<td class="font-mono text-xs">{item.sha256}</td>
								<td class="number">{showBytes(item.bytes)}</td>
								<td class="number">{item.receivedOn ? showDate(item.receivedOn) : 'undated'}</td>
								<td>{item.contentGone ? 'gone' : 'still needed by another message'}</td>
							</tr>
						{/each}
					</tbody>
				</table>
				{#if data.certificate.messages > data.certificate.items.length}
					<p class="text-ink-soft mt-1 text-sm">
						The first {data.certificate.items.length} are shown; <code>kovrel bin certificate</code> lists all.
					</p>
				{/if}
			</section>
		{/if}
	</main>
	{#if mailbox}<DocketSlip docket={data.docket} {mailbox} />{/if}
</div>
