<script lang="ts">
	import ShareBar from '$lib/components/charts/ShareBar.svelte';
	import type { Weight } from '../../../core/weigh/tree.ts';
	import { showBytes, showCount, showShare } from '../../../core/weigh/units.ts';

	interface Row extends Weight {
		key: string | number;
		label: string;
		unread?: number;
		href: string | undefined;
		title?: string;
		/** Depth of a folder below the top. */
		depth?: number;
	}

	let { name, rows, whole }: { name: string; rows: Row[]; whole?: number | undefined } = $props();

	/* Share of the whole if the rows are its parts, else of the heaviest. */
	const scale = $derived(whole ?? Math.max(1, ...rows.map(({ bytes }) => bytes)));
	const withUnread = $derived(rows.some(({ unread }) => unread !== undefined));
</script>

<table class="sheet table-fixed">
	<thead>
		<tr>
			<th>{name}</th><th class="number w-20">Messages</th>
			{#if withUnread}<th class="number w-20">Unread</th>{/if}
			<th class="number w-20">Size</th><th class="w-20">Share</th>
		</tr>
	</thead>
	<tbody>
		{#each rows as row (row.key)}
			<tr>
				<td class="truncate" style:padding-left={row.depth ? `${10 + row.depth * 16}px` : undefined} title={row.label}>
					{#if row.href}<a class="lead" href={row.href} title={row.title}>{row.label}</a>{:else}{row.label}{/if}
				</td>
				<td class="number">{showCount(row.messages)}</td>
				{#if withUnread}<td class="number">{showShare(row.unread ?? 0, row.messages)}</td>{/if}
				<td class="number">{showBytes(row.bytes)}</td>
				<td>
					<ShareBar bytes={row.bytes} whole={scale} />
				</td>
			</tr>
		{:else}
			<tr><td colspan="5" class="text-ink-soft">Nothing here.</td></tr>
		{/each}
	</tbody>
</table>
