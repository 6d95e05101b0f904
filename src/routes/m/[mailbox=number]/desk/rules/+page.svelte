<script lang="ts">
	import Explain from '$lib/components/frames/Explain.svelte';
	import DateField from '$lib/components/forms/DateField.svelte';
	import { enhance } from '$lib/enhance.ts';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { SIEVE_PORT } from '../../../../../core/sources/managesieve.ts';
	import { showDate } from '../../../../../core/calendar.ts';
	import { showCount, showMessages } from '../../../../../core/weigh/units.ts';

	let { data, form } = $props();

	const base = $derived(`/m/${data.mailboxId}`);
	const rules = $derived(data.standing.rules);
	const answer = $derived(
		form as { message?: string; takenBack?: number; started?: boolean; put?: { sentences: string[] } } | null
	);
	let asksPort = $state(false);
	let isPutting = $state(false);
	const LINKS = $derived<Record<string, string>>({
		holds: '/retain/holds',
		periods: `/retain/folders?mailbox=${data.mailboxId}`,
		'keep-list': `${base}/clear/keep-list`,
		senders: `${base}/lists/senders`,
		digest: `${base}/lists/digest`
	});
	/* So many lines of a group are shown on this page; all of them on its own. */
	const SHOWN = 2;

	/* The open row: its past can be taken back there. */
	let open = $state<number>();

	/* ---- the order: dragged, or by Alt and the arrows ---- */

	let dragged = $state<number>();
	let over = $state<number | 'last'>();
	let orderForm = $state<HTMLFormElement>();
	let moving = $state<{ id: number; before: number | '' }>({ id: 0, before: '' });

	async function put(id: number, before: number | undefined) {
		if (before === id) return;
		moving = { id, before: before ?? '' };
		// the fields are filled in first
		await Promise.resolve();
		orderForm?.requestSubmit();
	}

	function onKey(event: KeyboardEvent & { currentTarget: HTMLTableRowElement }, id: number, index: number) {
		if (event.target !== event.currentTarget) return;
		const step = event.key === 'ArrowUp' ? -1 : event.key === 'ArrowDown' ? 1 : 0;
		if (event.altKey && step !== 0) {
			const to = step < 0 ? rules[index - 1] : rules[index + 2];
			if (step < 0 && !to) return;
			void put(id, to?.id);
		} else if (step !== 0) {
			const row = step < 0 ? event.currentTarget.previousElementSibling : event.currentTarget.nextElementSibling;
			(row as HTMLElement | null)?.focus();
		} else if (event.key === 'Enter') open = open === id ? undefined : id;
		else return;
		event.preventDefault();
	}
</script>

<svelte:head><title>Standing decisions – {data.standing.mailbox} – Kovrel</title></svelte:head>

{#snippet group(title: string, kind: string, lines: readonly string[])}
	<li class="mb-1.5">
		<a class="lead font-semibold" href={LINKS[kind]}>{title}</a>
		<span class="text-ink-soft">{lines.length === 0 ? 'none' : showCount(lines.length)}</span>
		{#each lines.slice(0, SHOWN) as line, at (at)}<span class="text-ink-soft block truncate text-sm" title={line}
				>{line}</span
			>{/each}
		{#if lines.length > SHOWN}<span class="text-ink-soft block text-sm">and {showCount(lines.length - SHOWN)} more</span
			>{/if}
	</li>
{/snippet}

<div class="mb-2 flex flex-wrap items-end justify-between gap-4">
	<div>
		<div class="flex items-center gap-2">
			<h1>Standing decisions</h1>
			<Explain word="standing decision" />
		</div>
		<p class="mt-0.5 max-w-3xl">
			A standing decision says what mail may stay, and what happens to the rest. All of them run every night, as one
			docket; the first docket of a mailbox waits for you.
		</p>
	</div>
	<div class="flex gap-2">
		<a class="act" href="{base}/desk/rules/new">New standing decision</a>
		{#if rules.length > 0}<a class="quiet" href="{base}/desk/rules/sieve" download>As a Sieve script</a>{/if}
		{#if rules.length > 0 && data.live?.writes}<button
				class="quiet"
				type="button"
				aria-expanded={asksPort}
				onclick={() => (asksPort = !asksPort)}>Put on {data.live.host} …</button
			>{/if}
		{#if rules.some(({ isOn }) => isOn)}
			<form method="post" action="?/run" use:enhance><button class="quiet">Run now</button></form>
		{/if}
	</div>
</div>
{#if data.script === 'older' && data.live}
	<p class="wrong mb-3" data-testid="older">
		The script on {data.live.host} is older than these decisions, and acts as they were.
		{#if data.live.writes}<button class="lead" type="button" onclick={() => (asksPort = true)}
				>Put it there again</button
			>{/if}
	</p>
{/if}
{#if asksPort && data.live}
	<form
		method="post"
		action="?/put"
		class="bg-sheet border-rule-strong mb-3 flex max-w-3xl flex-col gap-2 border p-3 text-sm"
		aria-label="Put standing decisions on {data.live.host}"
		use:enhance={() => {
			isPutting = true;
			return async ({ update, result }) => {
				isPutting = false;
				if (result.type === 'success') asksPort = false;
				await update({ reset: false });
			};
		}}
	>
		<p>
			The mail server then carries them out itself, when mail is delivered (Sieve, by ManageSieve). Kovrel goes on to
			carry out what the server cannot. A server runs one script at a time: another one that is active there stays
			active, unless you say otherwise.
		</p>
		<div class="flex flex-wrap items-center gap-4">
			<label class="flex items-center gap-2"
				>Port <input
					class="field w-24"
					name="port"
					type="number"
					min="1"
					max="65535"
					placeholder={String(SIEVE_PORT)}
				/></label
			>
			<label class="flex items-center gap-2"
				><input type="checkbox" name="replaces" value="true" /> Replace another active script; it stays stored there</label
			>
			<button class="act text-sm" disabled={isPutting}>Put them there</button>
			{#if isPutting}<span role="status">Asking the server …</span>{/if}
		</div>
	</form>
{/if}
<Refused message={answer?.message} />
{#if answer?.put}<div class="bg-stamp-soft border-stamp mb-3 max-w-3xl border-l-4 px-3 py-1.5" role="status">
		{#each answer.put.sentences as sentence, at (at)}<p>{sentence}</p>{/each}
	</div>{/if}
{#if answer?.takenBack !== undefined}<p role="status" class="mb-2">
		{showMessages(answer.takenBack)}
		{answer.takenBack === 1 ? 'was' : 'were'} taken back.
	</p>{/if}
{#if answer?.started}<p role="status" class="mb-2">The run has started. Its result will be under the bell.</p>{/if}

<p class="mb-2 max-w-3xl text-sm">
	Everything that acts or protects by itself, in order of rank: each line outranks those below it.
</p>
<ol class="bg-sheet border-rule-strong mb-3 border p-3" aria-label="What outranks standing decisions">
	{#each data.standing.before as { kind, title, lines } (kind)}{@render group(title, kind, lines)}{/each}
</ol>

{#if rules.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		No standing decision yet. Make one here, or where you decide: an open message, a list, a lot and a search offer
		<i>The same from now on</i>.
	</p>
{:else}
	<p class="text-ink-soft mb-1 text-sm">
		If two take the same message, the upper one acts. Drag a row to another place, or press Alt with ↑ or ↓.
	</p>
	<table class="sheet" aria-label="Standing decisions">
		<thead
			><tr
				><th class="number w-10">No.</th><th>Standing decision</th><th class="number w-32">Messages so far</th><th
					class="w-28">Last run</th
				><th class="w-32">State</th></tr
			></thead
		>
		<tbody>
			{#each rules as rule, index (rule.id)}
				<tr
					tabindex="0"
					draggable="true"
					class:opacity-60={!rule.isOn}
					class:over={over === rule.id}
					aria-label={rule.name}
					onkeydown={(event) => onKey(event, rule.id, index)}
					ondragstart={(event) => {
						dragged = rule.id;
						event.dataTransfer?.setData('text/plain', rule.name);
					}}
					ondragend={() => {
						dragged = undefined;
						over = undefined;
					}}
					ondragover={(event) => {
						if (dragged === undefined) return;
						event.preventDefault();
						over = rule.id;
					}}
					ondrop={(event) => {
						event.preventDefault();
						if (dragged !== undefined) void put(dragged, rule.id);
					}}
				>
					<td class="number">{index + 1}</td>
					<td>
						<button
							class="lead font-semibold"
							type="button"
							tabindex="-1"
							aria-expanded={open === rule.id}
							onclick={() => (open = open === rule.id ? undefined : rule.id)}
							>{rule.name}{rule.threadSubject === undefined ? '' : `: ${rule.threadSubject || '(no subject)'}`}</button
						>
						<span class="block text-sm">{rule.sentence}</span>
						{#if open === rule.id}
							<div class="mt-2 flex flex-wrap items-end gap-3 text-sm">
								<a class="quiet" href="{base}/desk/rules/new?from={rule.id}">Rehearse or copy</a>
								<form method="post" action="?/remove" use:enhance>
									<input type="hidden" name="id" value={rule.id} />
									<button class="quiet">Remove</button>
								</form>
								{#if rule.messages > 0}
									<form method="post" action="?/takeBack" use:enhance class="flex flex-wrap items-end gap-2">
										<input type="hidden" name="id" value={rule.id} />
										<label class="flex flex-col gap-1">From <DateField name="since" about="past" /></label>
										<label class="flex flex-col gap-1">before <DateField name="until" about="past" /></label>
										<button class="quiet">Take back its decisions</button>
									</form>
								{/if}
							</div>
						{/if}
					</td>
					<td class="number">{showMessages(rule.messages)}</td>
					<td class="text-sm whitespace-nowrap">{rule.last ? showDate(rule.last) : 'never'}</td>
					<td>
						<form method="post" action="?/switch" use:enhance>
							<input type="hidden" name="id" value={rule.id} />
							<input type="hidden" name="isOn" value={!rule.isOn} />
							<button class="quiet text-sm">{rule.isOn ? 'Switch off' : 'Switch on'}</button>
						</form>
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
	{#if dragged !== undefined}
		<p
			class="border-rule-strong border border-dashed p-2 text-sm"
			class:over={over === 'last'}
			role="status"
			ondragover={(event) => {
				event.preventDefault();
				over = 'last';
			}}
			ondrop={(event) => {
				event.preventDefault();
				if (dragged !== undefined) void put(dragged, undefined);
			}}
		>
			{over === undefined
				? 'Drop it on the row that it should stand before, or here to put it last.'
				: over === 'last'
					? 'Drop it: it will be the last.'
					: `Drop it: it will stand before “${rules.find(({ id }) => id === over)?.name ?? ''}”.`}
		</p>
	{/if}
	<form method="post" action="?/order" use:enhance bind:this={orderForm} hidden>
		<input type="hidden" name="id" value={moving.id} />
		<input type="hidden" name="before" value={moving.before} />
	</form>
{/if}

<ol class="bg-sheet border-rule-strong mt-3 border p-3" aria-label="What follows standing decisions">
	{#each data.standing.after as { kind, title, lines } (kind)}{@render group(title, kind, lines)}{/each}
</ol>

<style>
	.over {
		outline: 2px solid var(--stamp);
		outline-offset: -2px;
	}
</style>
