<script lang="ts">
	import { enhance } from '$app/forms';
	import Drawer from '$lib/components/Drawer.svelte';
	import MessageDrawer from '$lib/components/MessageDrawer.svelte';
	import MessageTable from '$lib/components/MessageTable.svelte';
	import TermsFields from '$lib/components/TermsFields.svelte';
	import type { DueItem, DueLine } from '$lib/server/retention/due.ts';
	import { RECORD_CLASSES, CLASS_WORDS, type RecordClass } from '../../core/retention/classes.ts';
	import { showDate, showMonth } from '../../core/calendar.ts';
	import { ACTION_WORDS } from '../../core/retention/sentences.ts';
	import { showCount, showMessages } from '../../core/weigh/units.ts';

	interface Props {
		line: DueLine | undefined;
		today: string;
		onClose: () => void;
		onDecided: (dockets: number[]) => void;
	}
	let { line, today, onClose, onDecided }: Props = $props();

	let items = $state.raw<DueItem[]>([]);
	let total = $state(0);
	let loading = $state(false);
	let wrong = $state<string>();
	let reading = $state<number>();
	let out = $state<Set<number>>(new Set());
	let all = $state(false);
	let asking = $state<'retain' | 'classify' | 'pause'>();
	let terms = $state<string>();
	let as = $state<RecordClass>('record');
	let because = $state('');
	let until = $state('');

	const isDue = $derived(line !== undefined && line.date.length > 7 && line.date <= today);
	const chosen = $derived(items.filter(({ id }) => !out.has(id)));

	const meant = $derived(all && line ? line.messages : chosen.length);

	async function more(of: DueLine, offset: number) {
		loading = true;
		wrong = undefined;
		const asked = new URLSearchParams({
			date: of.date,
			action: of.disposition,
			mailboxId: String(of.mailboxId),
			retentionId: String(of.retentionId),
			folderId: String(of.folderId),
			offset: String(offset)
		});
		try {
			const answer = await fetch(`/retain/items?${asked.toString()}`);
			const body = (await answer.json()) as { items: DueItem[]; total: number; message?: string };
			if (!answer.ok) throw new Error(body.message);
			if (of !== line) return;
			items = offset === 0 ? body.items : [...items, ...body.items];
			total = body.total;
		} catch (error) {
			wrong = error instanceof Error && error.message ? error.message : 'The server does not answer.';
		} finally {
			loading = false;
		}
	}

	$effect(() => {
		const of = line;
		items = [];
		total = 0;
		out = new Set();
		asking = undefined;
		all = false;
		if (of) void more(of, 0);
	});

	const toggle = ({ id }: { id: number }) => {
		out = new Set(out.has(id) ? [...out].filter((other) => other !== id) : [...out, id]);
	};

	const wishOf = (decision: string, options: object = {}) =>
		JSON.stringify({
			decision,
			options,
			action: line?.disposition ?? 'review',
			...(all && line
				? {
						all: {
							mailboxId: line.mailboxId,
							date: line.date,
							retentionId: line.retentionId,
							folderId: line.folderId
						}
					}
				: { items: [{ mailboxId: line?.mailboxId, ids: chosen.map(({ id }) => id) }] })
		});
</script>

{#snippet submit(decision: string, words: string, options: object = {}, strong = false, ready = true)}
	<form
		method="post"
		action="/retain?/decide"
		use:enhance={() =>
			async ({ result, update }) => {
				if (result.type === 'failure') wrong = String(result.data?.message ?? 'It could not be done.');
				else if (result.type === 'success') {
					onDecided((result.data?.drafted as number[] | undefined) ?? []);
					await update({ reset: false });
				}
			}}
	>
		<input type="hidden" name="wish" value={wishOf(decision, options)} />
		<button class={strong ? 'act text-sm' : 'quiet text-sm'} disabled={(chosen.length === 0 && !all) || !ready}
			>{words}</button
		>
	</form>
{/snippet}

<Drawer
	open={line !== undefined}
	{onClose}
	width="62rem"
	title={line
		? `${isDue ? 'Due now' : line.date.length > 7 ? `Due on ${showDate(line.date)}` : `Due in ${showMonth(line.date)}`}: ${ACTION_WORDS[line.disposition]} ${showMessages(line.messages)} of ${line.folder}`
		: ''}
>
	{#if line}
		<p class="text-sm">
			{line.series ? `Under series ${line.series}.` : `Its mail is ${line.terms}.`} Nothing happens from here but what you
			put on a docket. A decision is about the <b>{showMessages(meant)}</b>
			{all ? 'of this row' : 'with a tick'}.
			{#if total > items.length}
				<label class="ml-1 inline-flex items-center gap-1"
					><input type="checkbox" bind:checked={all} /> all {showCount(line.messages)}, not only those shown</label
				>
			{/if}
		</p>
		{#if wrong}<p class="wrong" role="alert">{wrong}</p>{/if}
		<div class="decide border-b! flex flex-wrap items-end gap-2" role="group" aria-label="Decide on what is due">
			{#if asking === 'retain'}
				<TermsFields bind:terms triggers={['received']} dispositions={['destroy', 'archive', 'review', 'keep']} />
				{@render submit('retain', `Give ${showMessages(meant)} this period`, { terms }, true, terms !== undefined)}
				<button class="quiet text-sm" type="button" onclick={() => (asking = undefined)}>Not now</button>
			{:else if asking === 'classify'}
				<label class="flex flex-col gap-1 text-sm"
					>Class
					<select class="field" bind:value={as}
						>{#each RECORD_CLASSES as of (of)}<option value={of}>{CLASS_WORDS[of].words}</option>{/each}</select
					></label
				>
				<label class="flex flex-col gap-1 text-sm"
					>because <input class="field w-64" bind:value={because} maxlength="500" /></label
				>
				{@render submit(
					'classify',
					`Class ${showMessages(meant)}`,
					{ class: as, because },
					true,
					because.trim() !== ''
				)}
				<button class="quiet text-sm" type="button" onclick={() => (asking = undefined)}>Not now</button>
			{:else if asking === 'pause'}
				<label class="flex flex-col gap-1 text-sm"
					>Not before <input class="field" type="date" bind:value={until} /></label
				>
				<label class="flex flex-col gap-1 text-sm"
					>because <input class="field w-64" bind:value={because} maxlength="500" /></label
				>
				{@render submit(
					'pause',
					`Pause ${showMessages(meant)}`,
					{ until, because },
					true,
					until !== '' && because.trim() !== ''
				)}
				<button class="quiet text-sm" type="button" onclick={() => (asking = undefined)}>Not now</button>
			{:else}
				<button class="quiet text-sm" type="button" onclick={() => (asking = 'retain')}>Keep longer or shorter …</button
				>
				<button class="quiet text-sm" type="button" onclick={() => (asking = 'classify')}>Class otherwise …</button>
				<button class="quiet text-sm" type="button" onclick={() => (asking = 'pause')}>Pause …</button>
				{@render submit('keep', 'Take out: keep')}
				<a class="quiet text-sm" href="/retain/holds">Hold …</a>
				{#if isDue && line.disposition === 'archive'}{@render submit('archive', `Archive ${showMessages(meant)}`)}{/if}
				{#if isDue && line.disposition === 'review'}
					{@render submit('archive', `Archive ${showMessages(meant)}`)}
				{/if}
				{#if isDue && line.disposition !== 'archive'}
					{@render submit('dispose', `Destroy ${showMessages(meant)}: a docket of its own`)}
				{/if}
			{/if}
		</div>
		<div class="min-h-0 flex-1 overflow-auto">
			{#if items.length > 0}
				<MessageTable
					{items}
					onOpen={(id) => (reading = id)}
					choosing={{ isIn: ({ id }) => all || !out.has(id), toggle, disabled: all }}
					place={{ title: 'Due', of: ({ dueOn }) => showDate(dueOn) }}
				></MessageTable>
			{/if}
			{#if loading}<p role="status" class="p-1">Listing …</p>{/if}
			{#if items.length < total && !loading}
				<button class="quiet mt-2" type="button" onclick={() => line && more(line, items.length)}
					>Show more of {showCount(total)}</button
				>
			{/if}
		</div>
	{/if}
</Drawer>
<MessageDrawer bind:id={reading} />
