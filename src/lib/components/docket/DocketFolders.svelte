<script lang="ts">
	import ShareBar from '$lib/components/charts/ShareBar.svelte';
	import type { DocketInFull } from '$lib/server/docket/index.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { leftSentence } from '../../../core/docket/left.ts';
	import { showBytes, showCount } from '../../../core/weigh/units.ts';

	let { docket }: { docket: DocketInFull } = $props();

	/* By line: the same message may stay for the same reason in two of them. */
	const leaving = $derived(docket.lines.filter((line) => line.left.length > 0));
	const heaviest = $derived(Math.max(1, ...docket.folders.map(({ bytes }) => bytes)));
	const date = (text: string | null | undefined) => (text ? showDate(text) : '');
	const extreme = (key: 'oldest' | 'newest') =>
		docket.folders
			.map((folder) => folder[key] ?? '')
			.filter(Boolean)
			.sort()
			.at(key === 'oldest' ? 0 : -1);
</script>

<table class="sheet">
	<thead>
		<tr
			><th>Folder</th><th class="number">Messages</th><th class="number">Size</th><th class="w-28">Share</th><th
				class="number">Oldest</th
			><th class="number">Newest</th></tr
		>
	</thead>
	<tbody>
		{#each docket.folders as { id, path, isArchive, messages, bytes, oldest, newest } (id)}
			<tr>
				<td
					><a
						class="lead"
						href={isArchive
							? `/m/${docket.mailboxId}/archive?where=archived&q=${encodeURIComponent(`folder:"${path}"`)}`
							: `/m/${docket.mailboxId}/folders/${id}`}>{path}</a
					></td
				>
				<td class="number">{showCount(messages)}</td>
				<td class="number">{showBytes(bytes)}</td>
				<td><ShareBar {bytes} whole={heaviest} /></td>
				<td class="number">{date(oldest)}</td>
				<td class="number">{date(newest)}</td>
			</tr>
		{:else}
			<tr><td colspan="6" class="text-ink-soft">This docket covers no message.</td></tr>
		{/each}
	</tbody>
	{#if docket.folders.length > 0}
		<tfoot>
			<tr class="font-semibold">
				<td>In all</td>
				<td class="number">{showCount(docket.folders.reduce((sum, { messages }) => sum + messages, 0))}</td>
				<td class="number">{showBytes(docket.folders.reduce((sum, { bytes }) => sum + bytes, 0))}</td>
				<td></td>
				<td class="number">{date(extreme('oldest'))}</td>
				<td class="number">{date(extreme('newest'))}</td>
			</tr>
		</tfoot>
	{/if}
</table>
{#if leaving.length > 0}
	<h2 class="mt-4 mb-1">What stays, and why</h2>
	{#each leaving as line (line.id)}
		{#if leaving.length > 1}<p class="mt-1">{line.sentence}</p>{/if}
		<ul class="list-disc pl-5">
			{#each line.left as entry (entry.reason)}<li>{leftSentence(entry)}</li>{/each}
		</ul>
	{/each}
{/if}
