<script lang="ts" generics="T extends ItemRow">
	import type { Snippet } from 'svelte';
	import ClassMark from '$lib/components/message/ClassMark.svelte';
	import type { ItemRow } from '$lib/server/mail/index.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { isRightToLeft } from '../../../core/text-direction.ts';
	import { showBytes } from '../../../core/weigh/units.ts';

	interface Props {
		items: readonly T[];
		onOpen: (id: number) => void;
		/** Set if single messages can be selected. */
		selecting?: { isIn: (item: T) => boolean; toggle: (item: T) => void; disabled?: boolean };
		/** Shown before the date. */
		before?: { title: string; cell: Snippet<[T]> };
		date?: { title: string; of: (item: T) => string | null };
		place?: { title: string; of: (item: T) => string };
		/** Shown with the subject: marks beside it, or a line below it. */
		beside?: Snippet<[T]>;
		below?: Snippet<[T]>;
		/** Set if rows can be dragged; called with `undefined` at the end. */
		onDrag?: (item: T | undefined) => void;
	}
	let {
		items,
		onOpen,
		selecting,
		before,
		date = { title: 'Received', of: ({ receivedOn }) => receivedOn },
		place = { title: 'Folder', of: ({ folder }) => folder },
		beside,
		below,
		onDrag
	}: Props = $props();

	function onRowKey(event: KeyboardEvent & { currentTarget: HTMLTableRowElement }, item: T) {
		if (event.target !== event.currentTarget) return;
		const step =
			event.key === 'ArrowDown' ? 'nextElementSibling' : event.key === 'ArrowUp' ? 'previousElementSibling' : undefined;
		if (event.key === ' ' && selecting && !selecting.disabled) selecting.toggle(item);
		else if (event.key === 'Enter') onOpen(item.id);
		else if (step) (event.currentTarget[step] as HTMLElement | null)?.focus();
		else return;
		event.preventDefault();
	}
</script>

<table class="sheet messages table-fixed">
	<thead>
		<tr>
			{#if selecting}<th class="w-9"><span class="sr-only">Select</span></th>{/if}
			{#if before}<th class="w-24">{before.title}</th>{/if}
			<th class="w-28">{date.title}</th>
			<th class="w-44">From</th>
			<th>Subject</th>
			<th class="w-36">{place.title}</th>
			<th class="number w-20">Size</th>
		</tr>
	</thead>
	<tbody>
		{#each items as item (item.id)}
			{@const on = date.of(item)}
			<tr
				tabindex="0"
				onkeydown={(event) => onRowKey(event, item)}
				draggable={onDrag ? 'true' : undefined}
				ondragstart={(event) => {
					event.dataTransfer?.setData('text/plain', item.subject);
					onDrag?.(item);
				}}
				ondragend={() => onDrag?.(undefined)}
			>
				{#if selecting}
					<td class="of-select"
						><input
							type="checkbox"
							tabindex="-1"
							checked={selecting.isIn(item)}
							disabled={selecting.disabled}
							onchange={() => selecting.toggle(item)}
							aria-label="Select {item.subject || 'message without subject'}"
						/></td
					>
				{/if}
				{#if before}<td class="of-column">{@render before.cell(item)}</td>{/if}
				<td class="of-date whitespace-nowrap"
					>{on ? showDate(on) : 'undated'}{#if item.dateInDoubt && on === item.receivedOn}<span
							class="text-wax block text-xs">date in doubt</span
						>{/if}</td
				>
				<td class="of-from truncate" title={item.fromAddress}>{item.fromName || item.fromAddress}</td>
				<td class="of-subject">
					<div class="flex items-baseline gap-2">
						<button
							class="lead min-w-0 truncate"
							class:ml-auto={isRightToLeft(item.subject)}
							dir="auto"
							class:font-semibold={item.seen === 0}
							type="button"
							tabindex="-1"
							onclick={() => onOpen(item.id)}>{item.subject || '(no subject)'}</button
						>
						{#if item.held}<b class="shrink-0 text-xs" title="under a hold: it cannot be deleted">H held</b>{/if}
						{@render beside?.(item)}
						<span class="ml-auto shrink-0"><ClassMark of={item.class} series={item.series} /></span>
					</div>
					{#if below}<div class="text-ink-soft text-sm">{@render below(item)}</div>{/if}
				</td>
				<td class="of-place truncate" title={place.of(item)}>{place.of(item)}</td>
				<td class="of-size number">{showBytes(item.bytes)}</td>
			</tr>
		{/each}
	</tbody>
</table>
