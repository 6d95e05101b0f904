<script lang="ts">
	import type { DocketState } from '$lib/server/docket/index.ts';
	import type { NightRun } from '$lib/server/process/index.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { showMessages } from '../../../core/weigh/units.ts';

	let { run }: { run: NightRun } = $props();

	interface Told {
		docket?: number | undefined;
		asks: boolean;
		/** The result of a docket that waited. */
		became?: DocketState;
	}
	const BECAME: Partial<Record<DocketState, string>> = {
		'carrying-out': 'being carried out',
		'carried-out': 'carried out since',
		'taking-back': 'being taken back',
		'taken-back': 'carried out and taken back since',
		dropped: 'discarded since'
	};

	/* A waiting docket, its result, or the result of an automatic one. */
	const told = ({ asks, became }: Told, waits: string, done: string) =>
		asks ? waits : became ? (BECAME[became] ?? became) : done;
	const docketOr = ({ docket }: Told, else_: string) => (docket === undefined ? else_ : `/dockets/${docket}`);
</script>

<ul class="mt-1 flex flex-col gap-0.5">
	{#if run.delivered > 0}<li>{showMessages(run.delivered)} came in.</li>{/if}
	{#each run.returned ?? [] as back, at (at)}
		<li>
			<a class="lead" href={docketOr({ ...back, asks: false }, '/weigh')}
				>{back.mailbox}: {showMessages(back.messages)} came back, {back.by === 'answer'
					? 'answered'
					: 'as the day had come'}</a
			>
		</li>
	{/each}
	{#if run.outgoing && run.outgoing.sent + run.outgoing.failed > 0}<li>
			{showMessages(run.outgoing.sent)} sent whose time had come{#if run.outgoing.failed > 0}; {showMessages(
					run.outgoing.failed
				)} could not be sent{/if}.
		</li>{/if}
	{#each run.bins as night, at (at)}
		<li>
			<a class="lead" href={docketOr(night, `/m/${night.mailboxId}/clear/bin`)}
				>{night.mailbox}, bin: {showMessages(night.messages)}
				{told(night, 'to destroy, waiting for you to carry the docket out', 'destroyed')}{#if night.tomorrow > 0}; {showMessages(
						night.tomorrow
					)} due tomorrow{/if}</a
			>
		</li>
	{/each}
	{#each run.junk as junk, at (at)}
		<li>
			<a class="lead" href={docketOr(junk, `/m/${junk.mailboxId}/clear/bin`)}
				>{junk.mailbox}, junk: {showMessages(junk.messages)}
				{told(junk, 'to delete, waiting for you to carry the docket out', 'put into the bin')}</a
			>
		</li>
	{/each}
	{#each run.rules ?? [] as standing, at (at)}
		<li>
			<a class="lead" href={docketOr(standing, `/m/${standing.mailboxId}/desk/rules`)}
				>{standing.mailbox}, standing decisions: {showMessages(standing.messages)}
				{told(standing, 'to decide on, waiting for you to carry the docket out', 'decided on')}</a
			>
		</li>
	{/each}
	{#each run.retention ?? [] as due, at (at)}
		<li>
			<a class="lead" href={docketOr(due, '/retain')}
				>{due.mailbox}, schedule: {showMessages(due.messages)}
				{told(
					due,
					`to ${due.what}, waiting for you to carry the docket out`,
					due.what === 'archive' ? 'archived' : 'destroyed'
				)}</a
			>
		</li>
	{/each}
	{#each run.pauses ?? [] as pause, at (at)}
		<li>
			<a class="lead" href="/retain?in={pause.mailboxId}"
				>{pause.mailbox}: the pause of {pause.folder ?? 'single messages'} ends on {showDate(pause.until)}</a
			>
		</li>
	{/each}
	{#each run.digests as digest, at (at)}
		<li>
			{digest.mailbox}: {showMessages(digest.messages)} folded into the digest of {showDate(
				digest.day
			)}{#if digest.docket !== undefined}; <a class="lead" href="/dockets/{digest.docket}"
					>the originals: {told(digest, 'waiting for you to archive them', 'archived')}</a
				>{/if}
		</li>
	{/each}
</ul>
