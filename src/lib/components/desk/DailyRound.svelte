<script lang="ts">
	import Explain from '$lib/components/frames/Explain.svelte';
	import DateField from '$lib/components/forms/DateField.svelte';
	import { deserialize } from '$app/forms';
	import { enhance } from '$lib/enhance.ts';
	import { goto, invalidateAll } from '$app/navigation';
	import { page } from '$app/state';
	import { untrack } from 'svelte';
	import DecisionBar from '$lib/components/docket/DecisionBar.svelte';
	import NameField from '$lib/components/docket/NameField.svelte';
	import ListOfMessage from '$lib/components/message/ListOfMessage.svelte';
	import ThreadActions from '$lib/components/message/ThreadActions.svelte';
	import MessageReading from '$lib/components/message/MessageReading.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { sendAhead } from '$lib/sent-form.ts';
	import type { DeskPage } from '$lib/server/web/desk-page.ts';
	import type { Bundle } from '$lib/server/desk/index.ts';
	import type { DecisionResult } from '$lib/server/docket/index.ts';
	import type { ItemState } from '../../../core/docket/decision.ts';
	import { type Decision, DECISIONS, decisionsFor, ruleOf } from '../../../core/docket/decisions.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { showCount, showMessages } from '../../../core/weigh/units.ts';

	/* The daily round over the desk of one mailbox, or of several as one. */
	let { data, form }: { data: DeskPage & { today: string }; form: unknown } = $props();

	const desk = $derived(data.desk);
	const answer = $derived(form as { message?: string; decided?: DecisionResult[]; closed?: number } | null);
	const NAMES: Record<Bundle, string> = {
		waited: 'Waited until today',
		unread: 'Unread',
		inbox: 'All of the inbox',
		flagged: 'Flagged',
		copied: 'Only copied here',
		lists: 'From lists',
		orders: 'Orders and invoices',
		travel: 'Travel'
	};

	/* ---- what is on the desk ---- */

	type Hit = NonNullable<typeof data.sheet>['hits'][number];
	/* Decided without leaving the folder, and put off: they do not come again in this round. */
	let done = $state<number[]>([]);
	let later = $state<number[]>([]);
	/* Decided on, while the server still works. */
	let going = $state<number[]>([]);
	const question = $derived(JSON.stringify([page.url.pathname, page.url.search]));
	$effect(() => {
		void question;
		untrack(() => {
			done = [];
			later = [];
			going = [];
			begun = data.sheet?.rows ?? 0;
		});
	});
	let begun = $state(untrack(() => data.sheet?.rows ?? 0));
	const hits = $derived(data.sheet?.hits ?? []);
	const waiting = $derived(hits.filter(({ id }) => ![...done, ...later, ...going].includes(id)));
	const current = $derived(waiting[0]);
	const left = $derived(Math.max(0, (data.sheet?.rows ?? 0) - done.length - later.length - going.length));
	const share = $derived(begun === 0 ? 1 : Math.min(1, Math.max(0, (begun - left) / begun)));
	/* The message that is read: the desk's, or another one of its thread. */
	const first = $derived(current?.id);
	let reading = $derived(first);
	const idsOf = (hit: Hit | undefined) => (hit ? [hit.id, ...hit.folded.map(({ id }) => id)] : []);
	const ids = $derived(idsOf(current));

	/* ---- decisions ---- */

	const isSeveral = $derived(desk.mailboxes.length > 1);
	/* Folders to move into are those of the message's own mailbox. */
	const deciding = $derived(
		data.sheet && { ...data.sheet.deciding, ...(current ? data.foldersOf[current.mailboxId] : undefined) }
	);
	const [only] = $derived(desk.mailboxes);
	const listsHref = $derived(
		isSeveral || !only ? `/lists${page.url.search.replace(/[?&]of=[^&]*/, '')}` : `/m/${only.id}/lists`
	);
	let bar = $state<DecisionBar>();
	let refused = $state<string>();
	let isDismissed = $state(false);
	let version = $state(0);
	/* Tags and flags are set beside the decision: the message stays. */
	const STAYS: readonly string[] = ['tag', 'untag', 'flag', 'unflag', 'read', 'unread'];

	function onSend(decision: string) {
		refused = undefined;
		isDismissed = false;
		const decidedOn = current?.id;
		if (STAYS.includes(decision) || decidedOn === undefined) return () => {};
		const moves = !(DECISIONS as readonly string[]).includes(decision) || ruleOf(decision as Decision).to !== undefined;
		if (moves) going = [...going, decidedOn];
		else done = [...done, decidedOn];
		return () => {
			going = going.filter((id) => id !== decidedOn);
			done = done.filter((id) => id !== decidedOn);
		};
	}
	function onDone(decision: string) {
		// what the server has moved is not on the page any more
		going = going.filter((id) => hits.some((hit) => hit.id === id));
		if (STAYS.includes(decision)) version++;
	}
	const decided = $derived(isDismissed ? [] : (answer?.decided ?? []));

	/* ---- beside the message: the likely decision, why it waited, and the event to which it invites ---- */

	let likely = $state.raw<{ decision: Decision; options: Record<string, unknown> } | null>(null);
	let waits = $state.raw<{ because: string; until: string | null; since: string } | null>(null);
	let eventEndsOn = $state.raw<string | null>(null);
	$effect(() => {
		const of = current?.id;
		likely = null;
		waits = null;
		eventEndsOn = null;
		if (current === undefined) return;
		void fetch(`/m/${current.mailboxId}/desk/beside?item=${of}`)
			.then(async (answered) => {
				if (!answered.ok || of !== current?.id) return;
				const beside = (await answered.json()) as {
					likely: typeof likely;
					waits: typeof waits;
					eventEndsOn: string | null;
				};
				({ likely, waits, eventEndsOn } = beside);
			})
			.catch(() => undefined);
	});
	const likelyWords = $derived(
		likely
			? `${ruleOf(likely.decision).verb}${likely.options.folder ? ` to ${String(likely.options.folder)}` : ''}`
			: ''
	);

	/* ---- piles ---- */

	let isPiling = $state(false);
	let threadActions = $state<ThreadActions>();
	$effect(() => {
		void current?.id;
		isPiling = false;
	});
	let pile = $state('');
	let because = $state('');
	let until = $state('');
	const pileWish = $derived(
		JSON.stringify({
			mailboxId: current?.mailboxId,
			ids,
			pile: pile.trim(),
			...(because.trim() ? { because: because.trim() } : {}),
			...(until ? { until } : {})
		})
	);
	const sendToPile = sendAhead({
		onSend: () => {
			isPiling = false;
			return onSend('move');
		},
		onRefused: (message) => (refused = message),
		onDone: () => {
			because = until = '';
			onDone('move');
		}
	});

	/* ---- taking back ---- */

	let isTakingBack = false;
	async function takeBackLast() {
		const [last] = desk.last;
		if (!last || isTakingBack) return;
		isTakingBack = true;
		const body = new FormData();
		body.set('id', String(last.docketId));
		try {
			const sent = await fetch(`/dockets/${last.docketId}?/takeBack`, {
				method: 'POST',
				body,
				headers: { 'x-sveltekit-action': 'true' }
			});
			const result = deserialize(await sent.text());
			if (result.type === 'failure') refused = String(result.data?.message ?? 'It could not be taken back.');
			else {
				isDismissed = true;
				done = done.filter((id) => id !== last.itemId);
				later = later.filter((id) => id !== last.itemId);
				going = going.filter((id) => id !== last.itemId);
			}
			await invalidateAll();
		} catch {
			refused = 'The server does not answer.';
		} finally {
			isTakingBack = false;
		}
	}

	function putOff() {
		if (current) later = [...later, current.id];
	}

	function onKey(event: KeyboardEvent) {
		const target = event.target as HTMLElement;
		if (event.ctrlKey || event.altKey || event.metaKey) return;
		if (target.closest('input:not([type=checkbox]), textarea, select, [contenteditable], [role=dialog]')) return;
		if (/^[1-9]$/.test(event.key) && !event.repeat) bar?.pressDigit(Number(event.key));
		else if (event.key === '0' && !event.repeat) putOff();
		else if (event.key === '+' && !event.repeat && current) isPiling = true;
		else if (event.key === 'Backspace' && !event.repeat) void takeBackLast();
		else if (event.repeat || !threadActions?.pressKey(event.key)) return;
		event.preventDefault();
	}

	function show(name: string, value: string) {
		const address = new URL(page.url);
		address.searchParams.set(name, value);
		void goto(address.pathname + address.search, { keepFocus: true });
	}
</script>

<svelte:window onkeydown={onKey} />

<div class="flex flex-wrap items-end justify-between gap-3">
	<div class="flex items-center gap-2">
		<h1>Daily round</h1>
		<Explain word="desk" />
	</div>
	<p class="text-sm" data-testid="aim">
		<b>{showMessages(desk.inbox.messages)}</b> in the {isSeveral ? 'inboxes' : 'inbox'}; the aim is {showCount(
			desk.inbox.aim
		)}{desk.inbox.messages <= desk.inbox.aim
			? ', reached'
			: `, ${showCount(desk.inbox.messages - desk.inbox.aim)} to go`}.
	</p>
</div>
<div class="my-2 flex flex-wrap items-end gap-3 text-sm">
	<label class="flex items-center gap-2"
		>On the desk
		<select class="field" value={data.asked.of} onchange={(event) => show('of', event.currentTarget.value)}>
			{#each desk.bundles as { bundle, messages, isMore } (bundle)}<option value={bundle}
					>{NAMES[bundle]} ({isMore ? 'more than ' : ''}{showCount(messages)})</option
				>{/each}
			{#each desk.piles as { folderId, path, messages, mailbox } (folderId)}<option value="pile-{folderId}"
					>{isSeveral ? `${mailbox}: ` : ''}{path} ({showCount(messages)})</option
				>{/each}
			{#each data.saved as { id, name } (id)}<option value={String(id)}>{name}</option>{/each}
		</select></label
	>
	<label class="flex items-center gap-2"
		>first the
		<select class="field" value={data.asked.first} onchange={(event) => show('first', event.currentTarget.value)}>
			<option value="newest">newest</option>
			<option value="oldest">oldest</option>
		</select></label
	>
	<label class="flex items-center gap-2"
		>one at a time
		<select
			class="field"
			value={data.asked.single ? '1' : ''}
			onchange={(event) => show('single', event.currentTarget.value)}
		>
			<option value="">thread</option>
			<option value="1">message</option>
		</select></label
	>
	<span class="ml-auto flex items-center gap-2" role="status" data-testid="left">
		<span class="bar" aria-hidden="true"><span class="amount" style:width="{share * 100}%"></span></span>
		<b>{showCount(left)}</b> left{#if later.length > 0}, {showCount(later.length)} put off{/if}
	</span>
</div>

{#if desk.newLists.lists > 0}
	<form
		method="post"
		action={`?/lists${page.url.search.replace('?', '&')}`}
		use:enhance
		class="mb-1 flex flex-wrap items-center gap-2 text-sm"
	>
		<span data-testid="new-lists"
			><b>{desk.newLists.lists === 1 ? '1 new list' : `${showCount(desk.newLists.lists)} new lists`}</b> since {showDate(
				desk.newLists.since
			)}: {desk.newLists.names.join(', ')}{desk.newLists.lists > desk.newLists.names.length ? ' and others' : ''}.</span
		>
		<a class="lead" href={listsHref}>Decide on lists</a>
		<button class="quiet text-sm">Seen</button>
	</form>
{/if}
<Refused message={refused ?? (isDismissed ? undefined : (answer?.message ?? data.refused))} />
{#if !data.sheet || !current}
	<div class="bg-sheet border-rule-strong mt-2 border p-5" data-testid="cleared">
		{#if later.length > 0}
			<p>
				Everything here is decided, except {showMessages(later.length)} that you put off.
				<button class="quiet text-sm" type="button" onclick={() => (later = [])}>Show them again</button>
			</p>
		{:else}
			<p>
				Nothing waits here. Select another part above, or go on with <a class="lead" href={listsHref}>lists</a> that nobody
				reads.
			</p>
		{/if}
	</div>
{:else if deciding}
	<section class="bg-sheet border-rule-strong mt-2 flex flex-col gap-2 border p-3" aria-label="Message on the desk">
		<div class="flex items-baseline justify-between gap-3">
			<h2 class="min-w-0 truncate" dir="auto">{current.subject || '(no subject)'}</h2>
			{#if isSeveral}<span class="shrink-0 text-sm" data-testid="of-mailbox">in <b>{current.mailbox}</b></span>{/if}
			{#if ids.length > 1}<span class="text-ink-soft shrink-0 text-sm"
					>{showMessages(ids.length)} of one thread are decided on together</span
				>{/if}
		</div>
		<DecisionBar
			bind:this={bar}
			selected={{ messages: ids.length, bytes: current.bytes }}
			wish={{ ids }}
			offered={decisionsFor(['live' as ItemState], 'administrator')}
			isAtOnce={ids.length <= deciding.atOnce}
			folders={deciding.folders}
			archiveFolders={deciding.archiveFolders}
			tags={deciding.tags}
			recent={deciding.recent}
			series={deciding.series}
			holds={deciding.holds}
			hasSeveralTags
			action={`?/decide${page.url.search.replace('?', '&')}`}
			{onSend}
			onRefused={(message) => (refused = message)}
			{onDone}
		/>
		<div class="flex flex-wrap items-center gap-2 text-sm">
			<button class="quiet text-sm" type="button" onclick={putOff}><kbd>0</kbd> Later</button>
			<button class="quiet text-sm" type="button" aria-expanded={isPiling} onclick={() => (isPiling = !isPiling)}
				><kbd>+</kbd> Put on a pile …</button
			>
			<button class="quiet text-sm" type="button" disabled={desk.last.length === 0} onclick={() => void takeBackLast()}
				><kbd>⌫</kbd> Take back the last{desk.last[0] ? `: “${desk.last[0].subject.slice(0, 40)}”` : ''}</button
			>
			{#each decided as one (one.mailbox)}<span role="status" data-testid="decided"
					>{one.sentences.join(' ') || 'It is on the docket.'}</span
				>{/each}
			{#if likely}<span class="text-stamp" data-testid="likely"
					>For this sender you decided four of the last five times: <b>{likelyWords}</b>.</span
				>{/if}
		</div>
		{#if isPiling}
			<form
				method="post"
				action={`?/pile${page.url.search.replace('?', '&')}`}
				use:enhance={sendToPile}
				class="bg-docket flex flex-wrap items-end gap-3 p-2 text-sm"
				aria-label="Put on a pile"
			>
				<input type="hidden" name="wish" value={pileWish} />
				<NameField
					label="Pile"
					bind:value={pile}
					names={desk.piles.filter(({ mailboxId }) => mailboxId === current?.mailboxId).map(({ path }) => path)}
					longest={200}
				/>
				<label class="flex items-center gap-2"
					>waits because <input
						class="field w-56"
						bind:value={because}
						maxlength="500"
						placeholder="a reply is owed"
					/></label
				>
				<label class="flex items-center gap-2">until <DateField bind:value={until} /></label>
				{#if eventEndsOn && until !== eventEndsOn}<button
						class="quiet text-sm"
						type="button"
						onclick={() => (until = eventEndsOn ?? '')}>until the event ends, on {showDate(eventEndsOn)}</button
					>{/if}
				<button class="act" disabled={pile.trim() === ''}>Put {showMessages(ids.length)} there</button>
				<button class="quiet" type="button" onclick={() => (isPiling = false)}>Cancel</button>
			</form>
		{/if}
		{#if waits}
			<p class="border-stamp bg-stamp-soft border-l-4 px-3 py-1.5 text-sm" data-testid="waits">
				It has waited since {showDate(waits.since)}{waits.until ? ` until ${showDate(waits.until)}` : ''}{waits.because
					? `: ${waits.because}`
					: ''}.{waits.until && waits.until <= data.today ? ' If nothing is left to do, archive it.' : ''}
			</p>
		{/if}
		<div class="reading">
			<MessageReading bind:id={reading} marking={false} {version} ahead={waiting[1]?.id}>
				{#snippet actions(message)}
					<div class="flex w-full flex-wrap items-center gap-2">
						<ThreadActions
							bind:this={threadActions}
							mailboxId={message.mailboxId}
							itemId={message.id}
							{ids}
							folders={deciding.folders}
							listId={message.listId}
							address={message.fromAddress}
							hasKeys
							onSend={() => onSend('archive')}
							onRefused={(why) => (refused = why)}
							onDone={() => onDone('archive')}
						/>
					</div>
					{#if message.listId !== null}<div class="w-full">
							<ListOfMessage mailboxId={message.mailboxId} listId={message.listId} />
						</div>{/if}
				{/snippet}
			</MessageReading>
		</div>
	</section>
{/if}

<style>
	.bar {
		display: inline-block;
		width: 10rem;
		height: 0.6rem;
		border: 1px solid var(--rule-strong);
		background: var(--sheet);
	}
	.bar span {
		display: block;
		height: 100%;
		background: var(--stamp);
	}
	.reading {
		display: flex;
		flex-direction: column;
		gap: 0.5rem;
		min-height: 26rem;
	}
</style>
