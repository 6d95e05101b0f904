<script lang="ts">
	import DownloadIcon from '@lucide/svelte/icons/download';
	import { type Snippet, untrack } from 'svelte';
	import { invalidateAll } from '$app/navigation';
	import { page } from '$app/state';
	import type { ReadableMessage } from '$lib/server/find/index.ts';
	import TagMark from '$lib/components/message/TagMark.svelte';
	import ClassMark from '$lib/components/message/ClassMark.svelte';
	import StateMark from '$lib/components/message/StateMark.svelte';
	import { showDate } from '../../../core/calendar.ts';
	import { showMoment } from '$lib/moments.ts';
	import { showBytes, showMessages } from '../../../core/weigh/units.ts';

	interface Props {
		/** The message that is shown; another one of its thread may be opened. */
		id: number | undefined;
		/** Its subject, for a heading; empty while it is opened. */
		subject?: string;
		actions?: Snippet<[ReadableMessage]>;
		/** Whether this person may mark messages as junk here. */
		marking?: boolean;
		/** Another number reads the message again. */
		version?: number;
		/** The message that most likely comes next: it is fetched while this one is read. */
		ahead?: number | undefined;
	}
	let { id = $bindable(), subject = $bindable(''), actions, marking = true, version = 0, ahead }: Props = $props();

	interface ThreadLine {
		id: number;
		depth: number;
		subject: string;
		from: string;
		receivedOn: string | null;
	}
	let thread = $state.raw<ThreadLine[]>([]);
	/* The standing decisions that acted on it, for administrators. */
	let acted = $state.raw<string[]>([]);

	let message = $state.raw<ReadableMessage>();
	let fetched: { of: number; message: ReadableMessage } | undefined;
	let wrong = $state<string>();
	let asHtml = $state(true);
	let marked = $state<string>();

	const MARKS = [
		['junk', 'Junk'],
		['fraud', 'Fraud'],
		['not-junk', 'Not junk']
	] as const;

	const isMarked = $derived(message?.tags.some(({ name }) => name === '$Junk' || name === '$Phishing') ?? false);

	/* Marking moves and tags, so it goes through the docket. */
	async function mark(as: (typeof MARKS)[number][0]) {
		const answer = await fetch(`/items/${id}/mark`, {
			method: 'POST',
			headers: { 'content-type': 'application/json' },
			body: JSON.stringify({ as })
		}).catch(() => undefined);
		const body = (await answer?.json().catch(() => undefined)) as { message?: string } | undefined;
		marked = answer?.ok
			? 'It is on the docket. Nothing happens until that is carried out.'
			: (body?.message ?? 'The server does not answer. Nothing was done.');
		await invalidateAll();
	}

	/* The server records it as opened when it gives it out: it may stay unread. */
	async function fetchAhead(shown: number) {
		const next = ahead;
		if (next === undefined || id !== shown || next === shown) return;
		const answer = await fetch(`/items/${next}`);
		if (answer.ok && id === shown) fetched = { of: next, message: (await answer.json()) as ReadableMessage };
	}

	$effect(() => {
		subject = message ? message.subject || '(no subject)' : '';
	});

	$effect(() => {
		const wanted = id;
		void version;
		const isAhead = fetched?.of === wanted;
		if (untrack(() => message?.id) !== wanted) message = isAhead ? fetched?.message : undefined;
		fetched = undefined;
		wrong = undefined;
		marked = undefined;
		acted = [];
		if (wanted === undefined) return;
		// it stays while the thread is read
		if (!untrack(() => thread).some((line) => line.id === wanted)) thread = [];
		void (async () => {
			try {
				if (!isAhead) {
					const answer = await fetch(`/items/${wanted}`);
					const body = (await answer.json()) as ReadableMessage & { message?: string };
					if (id !== wanted) return;
					if (answer.ok) message = body;
					else wrong = body.message ?? 'The message cannot be shown.';
				}
				const lines = await fetch(`/items/${wanted}/thread`);
				if (id === wanted && lines.ok) thread = (await lines.json()) as ThreadLine[];
				if (!wrong && page.data.person?.role === 'administrator') {
					const rules = await fetch(`/items/${wanted}/acted`);
					if (id === wanted && rules.ok) acted = (await rules.json()) as string[];
				}
				await fetchAhead(wanted).catch(() => undefined);
			} catch {
				wrong = 'The server does not answer.';
			}
		})();
	});
</script>

{#if wrong}
	<p class="wrong" role="alert">{wrong}</p>
{:else if !message}
	<p role="status">Opening …</p>
{:else}
	<dl class="grid grid-cols-[5.5rem_1fr] gap-x-3 gap-y-0.5 text-sm">
		<dt class="text-ink-soft">From</dt>
		<dd class="break-words">
			{message.fromName ? `${message.fromName} <${message.fromAddress}>` : message.fromAddress || 'not given'}
		</dd>
		<dt class="text-ink-soft">Sender</dt>
		<dd>{message.sender}</dd>
		<dt class="text-ink-soft">To</dt>
		<dd class="max-h-16 overflow-auto break-words">{message.recipients || 'not given'}</dd>
		<dt class="text-ink-soft">Received</dt>
		<dd>
			{message.receivedAt === null
				? 'not known'
				: showMoment(new Date(message.receivedAt * 1000).toISOString())}{#if message.dateInDoubt}<b class="text-wax"
					>, in doubt: nothing falls due by it</b
				>{/if}
		</dd>
		{#if message.holds.length > 0}
			<dt class="text-ink-soft">Held by</dt>
			<dd><b>{message.holds.join(', ')}</b>: it cannot be deleted until that is released</dd>
		{/if}
		<dt class="text-ink-soft">Retention</dt>
		<dd><ClassMark of={message.standing.class} series={message.standing.series} /> {message.standing.sentence}</dd>
		{#if acted.length > 0}
			<dt class="text-ink-soft">Decided by</dt>
			<dd>
				{#each acted as sentence, at (at)}<span class="block">{sentence}</span>{/each}
			</dd>
		{/if}
		<dt class="text-ink-soft">Folder</dt>
		<dd class="flex flex-wrap items-center gap-2">
			<StateMark state={message.state} />
			{message.folder}{#if message.origin && message.origin !== message.folder}, from {message.origin}{/if}
			{#if message.elsewhere > 0}<span class="text-ink-soft"
					>({showMessages(message.elsewhere)} with the same bytes elsewhere)</span
				>{/if}
			{#each message.tags as tag (tag.id)}<TagMark {tag} />{/each}
			{#if message.waits !== null}<b class:text-wax={message.waits !== ''}
					>{message.waits || 'waiting for the server'}</b
				>{/if}
		</dd>
	</dl>
	<div class="flex flex-wrap items-center gap-2">
		{@render actions?.(message)}
		{#if message.hasHtml}
			<button class="quiet text-sm" type="button" onclick={() => (asHtml = !asHtml)}
				>{asHtml ? 'Show as plain text' : 'Show as sent'}</button
			>
		{/if}
		<a class="quiet text-sm" href="/items/{message.id}/raw" download
			><DownloadIcon size={14} aria-hidden="true" /> Download EML ({showBytes(message.bytes)})</a
		>
		{#each message.attachments.filter((file) => !file.inline) as file (file.index)}
			<a class="quiet text-sm" href="/items/{message.id}/attachments/{file.index}" download
				><DownloadIcon size={14} aria-hidden="true" /> {file.name}</a
			>
		{/each}
		{#if marking && message.state === 'live'}
			{#each MARKS.filter(([as]) => as !== 'not-junk' || isMarked) as [as, name] (as)}
				<button class="quiet text-sm" type="button" onclick={() => mark(as)}>{name}</button>
			{/each}
		{/if}
	</div>
	{#if marked}<p role="status" class="text-sm">{marked}</p>{/if}
	{#if thread.length > 1}
		<details class="text-sm">
			<summary class="cursor-pointer font-semibold">The thread, {showMessages(thread.length)}</summary>
			{#if message.threadId !== null && page.data.person?.role === 'administrator'}
				<a class="lead" href="/m/{message.mailboxId}/archive?q=thread%3A{message.threadId}"
					>Decide on all messages of this thread</a
				>
			{/if}
			<ol class="mt-1 max-h-44 overflow-auto">
				{#each thread as line (line.id)}
					<li style:padding-left="{Math.min(line.depth, 8) * 14}px" class="truncate">
						{#if line.id === message.id}<b>{line.subject || '(no subject)'}</b>{:else}<button
								class="lead"
								type="button"
								onclick={() => (id = line.id)}>{line.subject || '(no subject)'}</button
							>{/if}
						<span class="text-ink-soft">– {line.from}{line.receivedOn ? `, ${showDate(line.receivedOn)}` : ''}</span>
					</li>
				{/each}
			</ol>
		</details>
	{/if}
	{#if message.originals.length > 0}
		<details class="text-sm" open>
			<summary class="cursor-pointer font-semibold">The {showMessages(message.originals.length)} of this digest</summary
			>
			<ol class="mt-1 max-h-40 list-inside list-decimal overflow-auto">
				{#each message.originals as original (original.id)}
					<li>
						<button class="lead" type="button" onclick={() => (id = original.id)}
							>{original.subject || '(no subject)'}</button
						>
						– {original.fromName || original.fromAddress}
						<StateMark state={original.state} />
					</li>
				{/each}
			</ol>
		</details>
	{/if}
	{#if message.hasHtml && asHtml}
		<p class="text-ink-soft text-xs">Pictures from elsewhere are not loaded. Links show where they lead.</p>
		<iframe
			class="border-rule-strong min-h-0 w-full flex-1 border bg-white"
			title="Text of the message"
			sandbox="allow-popups"
			src="/items/{message.id}/html"
		></iframe>
	{:else}
		<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
		<pre
			class="bg-sheet border-rule min-h-0 flex-1 overflow-auto border p-3 font-[inherit] whitespace-pre-wrap"
			dir="auto"
			tabindex="0"
			role="region"
			aria-label="Text of the message">{message.text || '(no text)'}</pre>
	{/if}
{/if}
