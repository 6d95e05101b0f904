<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import BellIcon from '@lucide/svelte/icons/bell';
	import { Popover, Portal } from '@skeletonlabs/skeleton-svelte';
	import { goto, invalidateAll } from '$app/navigation';
	import { page } from '$app/state';
	import ReadingAgain from '$lib/components/frames/ReadingAgain.svelte';
	import JobProgress from '$lib/components/frames/JobProgress.svelte';
	import QuotaBar from '$lib/components/charts/QuotaBar.svelte';
	import { jobs } from '$lib/jobs.svelte.ts';
	import NightResult from '$lib/components/docket/NightResult.svelte';
	import type { Asked } from '$lib/server/lists/index.ts';
	import type { NightRun } from '$lib/server/process/index.ts';
	import { askedWords } from '$lib/asked-words.ts';
	import type { Snippet } from 'svelte';
	import type { LayoutServerData } from '../../../routes/$types';
	import { showDate } from '../../../core/calendar.ts';
	import { showBytes, showCount, showShare } from '../../../core/weigh/units.ts';
	import PersonMenu from './PersonMenu.svelte';
	import SkipLink from './SkipLink.svelte';

	/* The frame for administrators, with the stages of the work; auditors have fewer. */
	let { data, children }: { data: LayoutServerData; children: Snippet } = $props();

	/* On pages without a mailbox, that of the docket shown, else the last one. */
	const KEPT_AS = 'kovrel-mailbox';
	let last = $state<string>();
	/* Several mailboxes shown as one are remembered too, as `in:` and their numbers. */
	const SEVERAL = 'in:';
	const isSeveralHere = $derived(page.route.id?.startsWith('/(together)') === true);
	const named = $derived(
		page.params.mailbox ??
			(isSeveralHere ? `${SEVERAL}${page.url.searchParams.get('in') ?? ''}` : undefined) ??
			(last?.startsWith(SEVERAL)
				? ''
				: String((page.data.docket as { mailboxId?: number } | undefined)?.mailboxId ?? ''))
	);
	$effect(() => {
		if (named) sessionStorage.setItem(KEPT_AS, named);
		last = sessionStorage.getItem(KEPT_AS) ?? undefined;
	});
	const current = $derived(named || last || '');
	const several = $derived(current.startsWith(SEVERAL) ? current.slice(SEVERAL.length) : undefined);
	const asOne = $derived.by(() => {
		if (several === undefined) return [];
		const ids = several.split(',').map(Number);
		return several === '' ? data.mailboxes : data.mailboxes.filter(({ id }) => ids.includes(id));
	});
	const mailbox = $derived(data.mailboxes.find(({ id }) => String(id) === current));
	const home = $derived(mailbox ?? data.mailboxes[0]);
	const over = $derived(mailbox?.quotaBytes === undefined ? 0 : mailbox.bytes - mailbox.quotaBytes);
	const isAuditor = $derived(data.person?.role === 'auditor');
	const retainWaits = $derived(
		data.dueSoon > 0
			? `${showCount(data.dueSoon)} due within a week`
			: data.holds > 0
				? `${showCount(data.holds)} ${data.holds === 1 ? 'hold' : 'holds'}`
				: ''
	);
	const ledger = $derived({ name: 'Ledger', href: '/ledger', waits: data.noBackup ? 'backup wanted' : '' });
	const sumOf = (of: (mailbox: LayoutServerData['mailboxes'][number]) => number) =>
		asOne.reduce((sum, one) => sum + of(one), 0);
	const stages = $derived<{ name: string; href: string; waits: string; search?: string }[]>(
		isAuditor
			? [
					{ name: 'Weigh', href: '/weigh', waits: '' },
					{ name: 'Retain', href: '/retain/schedule', waits: retainWaits },
					ledger
				]
			: several !== undefined
				? [
						{ name: 'Weigh', href: '/weigh', waits: showBytes(sumOf(({ bytes }) => bytes)) },
						{ name: 'Lists', href: '/lists', waits: '' },
						{ name: 'Clear', href: '/clear', waits: '' },
						{
							name: 'Desk',
							href: '/desk',
							waits: `${showCount(sumOf(({ onTheDesk }) => onTheDesk))} unread`
						},
						{ name: 'Retain', href: '/retain', waits: retainWaits },
						{
							name: 'Archive',
							href: '/find',
							waits: `${showCount(sumOf(({ archived }) => archived.messages))} archived`
						},
						ledger
					].map((stage) => (several === '' || stage === ledger ? stage : { ...stage, search: `?in=${several}` }))
				: home
					? [
							{
								name: 'Weigh',
								href: `/m/${home.id}/weigh`,
								waits: home.fullTo === undefined ? showBytes(home.bytes) : showShare(home.bytes, home.quotaBytes ?? 0)
							},
							{
								name: 'Lists',
								href: `/m/${home.id}/lists`,
								waits: home.listsByHand > 0 ? `${showCount(home.listsByHand)} to unsubscribe by hand` : ''
							},
							{
								name: 'Clear',
								href: `/m/${home.id}/clear`,
								waits: home.binned.messages > 0 ? `${showCount(home.binned.messages)} in the bin` : ''
							},
							{
								name: 'Desk',
								href: `/m/${home.id}/desk`,
								waits: home.onTheDesk > 0 ? `${showCount(home.onTheDesk)} unread` : ''
							},
							{ name: 'Retain', href: '/retain', waits: retainWaits },
							{
								name: 'Archive',
								href: `/m/${home.id}/archive`,
								waits: `${showCount(home.archived.messages)} archived`
							},
							ledger
						]
					: [ledger]
	);
	const people = $derived({
		name: 'People',
		href: '/people',
		waits: data.requests > 0 ? `${showCount(data.requests)} ${data.requests === 1 ? 'asks' : 'ask'}` : ''
	});
	const besides = $derived(isAuditor ? [people] : [people, { name: 'Import mail', href: '/mailboxes', waits: '' }]);
	/* The longest match: an auditor's page may begin like Retain's. */
	const isHere = (href: string) =>
		page.url.pathname.startsWith(isAuditor ? href.split('/').slice(0, 2).join('/') : href);
	/* What happens all day long is no news, unless it fails. */
	const isRoutine = ({ useCase, state, result }: LayoutServerData['jobs'][number]) => {
		if (state !== 'done') return false;
		if (useCase === 'verifyShare') return (result as { ok: boolean } | null)?.ok === true;
		const passes =
			useCase === 'followSources' ? (result as { passes: { errors: string[] }[] } | null)?.passes : undefined;
		return passes?.every(({ errors }) => errors.length === 0) === true;
	};
	const unseen = $derived(
		data.jobs.filter((job) => job.state !== 'running' && job.noticedAt === null && !isRoutine(job)).length
	);

	$effect(() => {
		if (!isAuditor) return jobs.follow();
	});

	/* The stage stays where the page of another mailbox, or of several, has it too. */
	const stageOf = (path: string) => {
		const [, , , stage = 'weigh'] = path.split('/');
		// a folder is one of its mailbox alone
		return stage === 'folders' ? 'clear/folders' : stage;
	};
	const STAGES_OF_SEVERAL = ['weigh', 'lists', 'clear', 'desk'];
	function switchMailbox(event: Event & { currentTarget: HTMLSelectElement }) {
		const [, first = ''] = page.url.pathname.split('/');
		const stage = isSeveralHere ? first : stageOf(page.url.pathname);
		const hasBoth = STAGES_OF_SEVERAL.includes(stage);
		const selected = event.currentTarget.value;
		if (selected === 'new') void goto('/mailboxes');
		else if (selected === 'all') void goto(`/${hasBoth ? stage : 'weigh'}`);
		else if (selected) void goto(`/m/${selected}/${isSeveralHere && !hasBoth ? 'weigh' : stage}`);
	}

	async function notice(open: boolean) {
		if (!open && unseen > 0) {
			await fetch('/jobs', { method: 'POST' });
			await invalidateAll();
		}
	}

	async function retry(id: number) {
		await fetch(`/jobs/${id}`, { method: 'POST' });
		await invalidateAll();
	}

	async function letADayPass() {
		await fetch('/days', {
			method: 'POST',
			headers: { 'content-type': 'application/json' },
			body: JSON.stringify({ days: 1 })
		});
	}

	const ENDINGS: Record<string, string> = { done: 'Done', failed: 'Could not be done', stopped: 'Stopped' };
</script>

<SkipLink />

<div class="flex min-h-screen flex-col">
	<header class="flex flex-wrap items-center gap-x-5 gap-y-2 px-3 pt-3 pb-2 sm:px-5">
		<a href="/" class="font-heading text-xl font-bold tracking-tight" style:font-family="'Besley Variable', serif"
			>Kovrel</a
		>
		{#if data.mailboxes.length > 0 && !isAuditor}
			<label class="flex min-w-0 items-center gap-2">
				<span class="text-ink-soft text-sm max-sm:sr-only">Mailbox</span>
				<select
					class="field max-w-full min-w-0 font-semibold"
					value={several === undefined ? (mailbox ? String(mailbox.id) : '') : 'all'}
					onchange={switchMailbox}
				>
					{#if !mailbox && several === undefined}<option value="">select a mailbox</option>{/if}
					<option value="all">Several mailboxes as one</option>
					{#each data.mailboxes as { id, name } (id)}<option value={String(id)}>{name}</option>{/each}
					<option value="new">Import mail …</option>
				</select>
			</label>
		{/if}
		{#if mailbox}
			<div
				class="flex max-w-md flex-1 items-center gap-3 max-sm:order-last max-sm:max-w-none max-sm:basis-full"
				data-testid="weight"
			>
				<div class="min-w-16 flex-1"><QuotaBar bytes={mailbox.bytes} quota={mailbox.quotaBytes} /></div>
				<span class="text-sm whitespace-nowrap">
					<b>{showBytes(mailbox.bytes)}</b>
					{#if mailbox.quotaBytes !== undefined}
						<span>of {showBytes(mailbox.quotaBytes)}</span>{#if over > 0}<span class="text-wax ml-1 font-semibold"
								>({showBytes(over)} over)</span
							>{/if}{/if}
				</span>
			</div>
		{/if}
		{#if several !== undefined && !isAuditor}
			<span class="text-sm" data-testid="weight"
				><b>{showBytes(sumOf(({ bytes }) => bytes))}</b> in {asOne.length === 1
					? asOne[0]?.name
					: `${showCount(asOne.length)} mailboxes`}</span
			>
		{/if}
		<div class="ml-auto flex flex-wrap items-center justify-end gap-2">
			{#if !isAuditor}<Popover onOpenChange={({ open }) => void notice(open)}>
					<Popover.Trigger
						class="quiet"
						aria-label="Work in the background: {jobs.running.length} running, {unseen} not seen yet"
					>
						<BellIcon size={16} aria-hidden="true" />
						{#if jobs.running.length > 0}{jobs.running.length} running{:else if unseen > 0}{unseen} done{:else}Work{/if}
					</Popover.Trigger>
					<Portal>
						<Popover.Positioner class="z-40!">
							<Popover.Content
								class="bg-sheet border-rule-strong flex max-h-[70vh] w-[min(24rem,90vw)] flex-col gap-3 overflow-auto border p-4 shadow-lg"
							>
								<Popover.Title class="font-semibold">Work in the background</Popover.Title>
								{#each jobs.running as job (job.id)}<JobProgress {job} />{/each}
								<ul class="flex flex-col gap-2 text-sm">
									{#each data.jobs.filter((job) => job.state !== 'running') as job (job.id)}
										<li class="border-rule border-t pt-2">
											<b class:text-wax={job.state === 'failed'}>{ENDINGS[job.state]}:</b>
											{job.label}{#if job.error}<br />{job.error}{/if}
											{#if job.state === 'failed'}<button class="lead" type="button" onclick={() => void retry(job.id)}
													>Try again</button
												>{/if}
											{#if job.useCase === 'runNight' && job.result}<NightResult run={job.result as NightRun} />{/if}
											{#if job.useCase === 'letDaysPass' && job.result}<NightResult run={job.result as NightRun} />{/if}
											{#if job.useCase === 'leaveLists' && job.result}<br />{askedWords(job.result as Asked)}{/if}
											{#if job.useCase === 'importMailbox' && job.result}<br /><a class="lead" href="/mailboxes"
													>Imports</a
												>{/if}
										</li>
									{:else}
										<li class="text-ink-soft">
											Imports, dockets and checks show here while they run, and their results afterwards.
										</li>
									{/each}
								</ul>
							</Popover.Content>
						</Popover.Positioner>
					</Portal>
				</Popover>{/if}
			{#if data.person}<PersonMenu person={data.person} />{/if}
		</div>
	</header>
	<nav aria-label="Stages of the work" class="border-rule-strong flex flex-wrap gap-x-1 border-b px-3 sm:px-5">
		{#each stages as { name, href, waits, search = '' } (name)}
			<a href="{href}{search}" class="tab" aria-current={isHere(href) ? 'page' : undefined}>
				<span class="font-semibold">{name}</span>{#if waits}<span class="text-ink-soft text-xs max-md:hidden"
						>{waits}</span
					>{/if}
			</a>
		{/each}
		{#each besides as { name, href, waits }, at (name)}
			<a
				{href}
				class="tab"
				class:lg:ml-auto={at === 0}
				aria-current={page.url.pathname.startsWith(href) ? 'page' : undefined}
				><span class="font-semibold">{name}</span>{#if waits}<span class="text-ink-soft text-xs max-md:hidden"
						>{waits}</span
					>{/if}</a
			>
		{/each}
	</nav>
	{#if !isAuditor && !jobs.connected}
		<p class="wrong mx-5 mt-3" role="status">
			The server does not answer. What was acknowledged is kept; this page goes on when the server is there again.
		</p>
	{/if}
	{#if data.clock}
		<div class="wrong mx-5 mt-3 flex flex-wrap items-center gap-3" role="alert">
			<p class="flex-1">{data.clock}</p>
			{#if !isAuditor}<form method="post" action="/ledger?/clock" use:enhance>
					<button class="quiet">The clock is right</button>
				</form>{/if}
		</div>
	{/if}
	<ReadingAgain isOn={data.rereading} />
	{#if data.room}<p class="wrong mx-5 mt-3" role="alert">{data.room}</p>{/if}
	{#if data.damage && page.url.pathname !== '/ledger'}
		<p class="wrong mx-5 mt-3" role="alert">
			<b>Damage was found:</b>
			{data.damage}. Nothing was changed. <a class="lead" href="/ledger">Ledger names what is damaged</a>, and how to
			repair it.
		</p>
	{/if}
	<div id="work" class="flex-1">{@render children()}</div>
	<footer class="text-ink-soft flex items-center gap-4 px-5 py-2 text-xs">
		{#if data.demo}
			<span>This is a demo. Its date is {showDate(data.today)}.</span>
			{#if !isAuditor}<button
					class="lead"
					type="button"
					disabled={jobs.running.some(({ useCase }) => useCase === 'letDaysPass')}
					onclick={letADayPass}>Let a day pass</button
				>{/if}
		{/if}
	</footer>
</div>

<style>
	/* the tabs of index cards */
	.tab {
		display: flex;
		align-items: baseline;
		gap: 0.5rem;
		padding: 6px 16px 5px;
		min-height: 2rem;
		margin-bottom: -1px;
		border: 1px solid var(--rule);
		border-bottom-color: var(--rule-strong);
		border-radius: 7px 7px 0 0;
		background: color-mix(in oklab, var(--docket) 60%, var(--paper));
	}
	.tab[aria-current='page'] {
		background: var(--paper);
		border-color: var(--rule-strong);
		border-bottom-color: var(--paper);
		box-shadow: inset 0 3px 0 var(--stamp);
	}
	.tab:hover {
		color: var(--stamp);
	}
	@media (width < 48rem) {
		.tab {
			padding-inline: 10px;
		}
	}
</style>
