<script lang="ts">
	import type { NightRun } from '$lib/server/work/night.ts';
	import { showDate } from '../../core/calendar.ts';
	import { showCount, showMessages } from '../../core/weigh/units.ts';

	let { run }: { run: NightRun } = $props();
</script>

<ul class="mt-1 flex flex-col gap-0.5">
	{#if run.delivered > 0}<li>{showMessages(run.delivered)} came in.</li>{/if}
	{#each run.bins as night, at (at)}
		<li>
			<a class="lead" href="/m/{night.mailboxId}/clear/bin"
				>{night.mailbox}: {showCount(night.messages)}
				{night.asks ? 'in the bin wait for you to carry the docket out' : 'destroyed'}{#if night.tomorrow > 0}, {showCount(
						night.tomorrow
					)} fall due tomorrow{/if}</a
			>
		</li>
	{/each}
	{#each run.junk as junk, at (at)}
		<li>
			<a class="lead" href="/m/{junk.mailboxId}/clear/bin"
				>{junk.mailbox}: {showCount(junk.messages)}
				{junk.asks ? 'of junk wait for you to carry the docket out' : 'of junk put into the bin'}</a
			>
		</li>
	{/each}
	{#each run.retention ?? [] as due, at (at)}
		<li>
			<a class="lead" href={due.docket === undefined ? '/retain' : `/dockets/${due.docket}`}
				>{due.mailbox}: {showCount(due.messages)}
				{due.asks
					? `wait for you to ${due.what} them: carry the docket out`
					: `${due.what === 'archive' ? 'archived' : 'destroyed'} by the schedule`}</a
			>
		</li>
	{/each}
	{#each run.pauses ?? [] as pause, at (at)}
		<li>
			<a class="lead" href="/retain?mailbox={pause.mailboxId}"
				>{pause.mailbox}: the pause of {pause.folder ?? 'single messages'} ends on {showDate(pause.until)}</a
			>
		</li>
	{/each}
	{#each run.digests as digest, at (at)}
		<li>
			{digest.mailbox}: {showMessages(digest.messages)} folded into the digest of {showDate(
				digest.day
			)}{#if digest.asks}; <a class="lead" href="/dockets/{digest.docket}">the originals wait for you to archive them</a
				>{/if}
		</li>
	{/each}
</ul>
