<script lang="ts">
	import type { Snippet } from 'svelte';
	import ClassMark from '$lib/components/message/ClassMark.svelte';
	import FileLinks from '$lib/components/message/FileLinks.svelte';
	import Marked from '$lib/components/message/Marked.svelte';
	import StateMark from '$lib/components/message/StateMark.svelte';
	import TagMark from '$lib/components/message/TagMark.svelte';
	import type { HiddenColumns } from '$lib/hidden-columns.svelte.ts';
	import type { MessagesPage } from '$lib/server/web/messages-page.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { isRightToLeft } from '../../../core/text-direction.ts';
	import { showBytes, showCount } from '../../../core/weigh/units.ts';

	type Hit = MessagesPage['hits'][number];
	interface Props {
		hit: Hit;
		/** Text around the words found, or its first words. */
		excerpt: Hit['context'];
		columns: HiddenColumns;
		/** Whether its state and folder are shown. */
		hasPlaces: boolean;
		/** Whether its folder leads to the folder's page. */
		hasFolderPages: boolean;
		isSelected: boolean;
		/** Without a selection, decisions apply to it. */
		isMeant: boolean;
		/** A column of the page's own. */
		column?: Snippet<[Hit]> | undefined;
		/** Shown below the subject. */
		note?: Snippet<[Hit]> | undefined;
		onToggle: () => void;
		onOpen: () => void;
		onKey: (event: KeyboardEvent & { currentTarget: HTMLTableRowElement }) => void;
		onFocus: () => void;
		/** Set if it can be dragged; called without an event at the end. */
		onDrag: ((event?: DragEvent) => void) | undefined;
	}
	let {
		hit,
		excerpt,
		columns,
		hasPlaces,
		hasFolderPages,
		isSelected,
		isMeant,
		column,
		note,
		onToggle,
		onOpen,
		onKey,
		onFocus,
		onDrag
	}: Props = $props();
</script>

<tr
	tabindex="0"
	class:selected={isSelected}
	class:meant={isMeant}
	onkeydown={onKey}
	onfocus={onFocus}
	draggable={onDrag ? 'true' : undefined}
	ondragstart={(event) => onDrag?.(event)}
	ondragend={() => onDrag?.()}
	aria-label="{hit.subject || 'no subject'}, {hit.state}{isSelected ? ', selected' : ''}"
>
	<td class="of-select"
		><input
			type="checkbox"
			aria-label="Select {hit.subject || 'message without subject'}"
			checked={isSelected}
			onchange={onToggle}
			tabindex="-1"
		/></td
	>
	{#if column}<td class="of-column">{@render column(hit)}</td>{/if}
	{#if columns.shows('received')}
		<td class="of-date whitespace-nowrap"
			>{hit.receivedOn ? showDate(hit.receivedOn) : 'undated'}{#if hit.dateInDoubt}<span class="text-wax block text-xs"
					>date in doubt</span
				>{/if}</td
		>
	{/if}
	{#if columns.shows('from')}
		<td class="of-from truncate" title={hit.fromAddress}><Marked stretches={hit.markedFrom} /></td>
	{/if}
	<td class="of-subject">
		<span class="flex flex-wrap items-baseline gap-x-2 md:flex-nowrap">
			<button
				type="button"
				tabindex="-1"
				class="lead min-w-0 truncate text-left"
				class:ml-auto={isRightToLeft(hit.subject)}
				dir="auto"
				class:font-semibold={hit.seen === 0}
				onclick={onOpen}
				>{#if hit.subject}<Marked stretches={hit.markedSubject} />{:else}(no subject){/if}</button
			>
			{#if hit.folded.length > 0}<span class="text-ink-soft shrink-0 text-xs" title="messages of its thread found here"
					>{showCount(hit.folded.length + 1)} messages</span
				>{/if}
			{#if hit.held}<b class="shrink-0 text-xs" title="under a hold: it cannot be deleted">H held</b>{/if}
			{#if hit.flagged}<b class="shrink-0 text-xs">flag</b>{/if}
			{#if hit.kept}<b class="shrink-0 text-xs">kept</b>{/if}
			{#if hit.waits}<b class="shrink-0 text-xs" title="the mail server has not confirmed the last change yet"
					>waiting for the server</b
				>{/if}
			{#if hit.paused}<b class="shrink-0 text-xs">paused</b>{/if}
			{#each hit.tags as tag (tag.id)}<TagMark {tag} />{/each}
			{#if hit.class > 1 || hit.series}<span class="ml-auto shrink-0"
					><ClassMark of={hit.class} series={hit.series} /></span
				>{/if}
		</span>
		{#if note}<span class="block text-sm">{@render note(hit)}</span>{/if}
		{#if columns.shows('text')}<span class="text-ink-soft block min-h-5 truncate text-sm"
				><Marked stretches={excerpt} /></span
			>{/if}
		{#if columns.shows('files')}<FileLinks id={hit.id} files={hit.files} onMore={onOpen} />{/if}
	</td>
	{#if hasPlaces}
		{@const place = hit.origin ?? hit.folder}
		<td class="of-place"
			><StateMark state={hit.state} />{#if hasFolderPages}<a
					class="text-ink-soft hover:text-stamp block truncate text-xs"
					tabindex="-1"
					href="/m/{hit.mailboxId}/folders/{hit.homeId}"
					title="{hit.mailbox}, {place}">{place}</a
				>{:else}<span class="text-ink-soft block truncate text-xs" title="{hit.mailbox}, {place}"
					>{hit.mailbox}, {place}</span
				>{/if}</td
		>
	{/if}
	{#if columns.shows('size')}<td class="of-size number">{showBytes(hit.bytes)}</td>{/if}
</tr>

<style>
	/* the message a decision would apply to, also after the focus has left the row */
	tr.meant {
		outline: 2px dashed var(--stamp);
		outline-offset: -2px;
	}
	tr.selected {
		background: var(--stamp-soft);
	}
</style>
