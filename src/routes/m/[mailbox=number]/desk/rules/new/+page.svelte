<script lang="ts">
	import DateField from '$lib/components/forms/DateField.svelte';
	import { quotedValue } from '../../../../../../core/search/quoted-value.ts';
	import type { SubmitFunction } from '@sveltejs/kit';
	import { deserialize } from '$app/forms';
	import { enhance } from '$lib/enhance.ts';
	import { goto } from '$app/navigation';
	import { untrack } from 'svelte';
	import PeriodField from '$lib/components/forms/PeriodField.svelte';
	import { fieldsOfPeriod, periodOfFields } from '$lib/retention-forms.ts';
	import type { Meets, Rehearsal, RuleGiven } from '$lib/server/rules/index.ts';
	import { showDate } from '../../../../../../core/calendar.ts';
	import { type Decision, ruleOf } from '../../../../../../core/docket/decisions.ts';
	import { readPeriod } from '../../../../../../core/retention/periods.ts';
	import {
		GROUPS,
		type Group,
		ruleSentence,
		STANDING_DECISIONS,
		thenWords,
		wrongRule
	} from '../../../../../../core/rules/rule.ts';
	import { showBytes, showMessages } from '../../../../../../core/weigh/units.ts';

	let { data } = $props();

	const base = $derived(`/m/${data.mailbox.id}`);
	const copied = untrack(() => data.from);
	const first = untrack(() => data.where || (data.list ? quotedValue(`=${data.list.identifier}`, 'list') : ''));

	let query = $state(copied?.query ?? first);
	let name = $state('');
	let newest = $state<number | null>(copied?.stay.newest ?? null);
	let per = $state<Group | ''>(copied?.stay.per ?? '');
	let age = $state(fieldsOfPeriod(copied?.stay.olderThan ? readPeriod(copied.stay.olderThan) : undefined));
	let megabytes = $state<number | null>(copied?.stay.largerInAll ? copied.stay.largerInAll / 1_000_000 : null);
	/* Junk is a keyword on the message, as on an IMAP server. */
	const JUNK = '$Junk';
	let what = $state<Decision | 'junk' | 'pile'>(
		copied?.then === 'tag' && copied.options.tag === JUNK ? 'junk' : (copied?.then ?? 'archive')
	);
	/* A pile is a folder; the server makes it one. */
	const then = $derived(what === 'junk' ? 'tag' : what === 'pile' ? 'move' : what);
	let folder = $state(copied?.options.folder ?? '');
	let tag = $state(copied?.options.tag ?? '');
	let leavesFlagged = $state(copied?.options.leavesFlagged ?? true);
	let reach = $state<'new' | 'all'>(copied && !copied.since ? 'all' : 'new');
	// svelte-ignore state_referenced_locally
	let since = $state(copied?.since ?? data.today);
	let until = $state(copied?.until ?? '');

	const needsFolder = $derived(then === 'move' || then === 'archive');
	const needsTag = $derived(what === 'tag' || what === 'untag');
	/* Archiving and deleting name flagged mail, and a way to leave it (invariant 16). */
	const asksFlagged = $derived(then === 'archive' || then === 'delete');
	const olderThan = $derived(periodOfFields(age));
	const rule = $derived.by((): RuleGiven => ({
		...(name.trim() ? { name: name.trim() } : {}),
		query: query.trim(),
		stay: {
			...(newest ? { newest } : {}),
			...(newest && per ? { per } : {}),
			...(olderThan ? { olderThan } : {}),
			...(megabytes ? { largerInAll: Math.round(megabytes * 1_000_000) } : {})
		},
		then,
		options: {
			...(needsFolder && folder.trim() ? { folder: folder.trim() } : {}),
			...(what === 'junk' ? { tag: JUNK } : needsTag && tag.trim() ? { tag: tag.trim() } : {}),
			...(asksFlagged && leavesFlagged ? { leavesFlagged } : {})
		},
		...(reach === 'new' && since ? { since } : {}),
		...(until ? { until } : {})
	}));
	const wrong = $derived(wrongRule({ ...rule, name: rule.name ?? 'new' }));
	const sentence = $derived(wrong ? '' : ruleSentence({ ...rule, name: '' }));

	/* ---- the rehearsal follows the form ---- */

	let rehearsed = $state.raw<Rehearsal>();
	let refused = $state<string>();
	let isLooking = $state(false);
	const asked = $derived(JSON.stringify(rule));

	$effect(() => {
		const now = asked;
		rehearsed = undefined;
		refused = undefined;
		if (untrack(() => wrong)) return;
		const timer = setTimeout(() => void rehearse(now), 300);
		return () => clearTimeout(timer);
	});

	async function rehearse(now: string) {
		isLooking = true;
		const form = new FormData();
		form.set('rule', now);
		try {
			const answer = await fetch('?/rehearse', {
				method: 'POST',
				body: form,
				headers: { 'x-sveltekit-action': 'true' }
			});
			const result = deserialize(await answer.text());
			if (now !== asked) return;
			if (result.type === 'success') rehearsed = result.data?.rehearsed as Rehearsal;
			else refused = String((result.type === 'failure' && result.data?.message) || 'It could not be rehearsed.');
		} catch {
			refused = 'The server does not answer.';
		} finally {
			isLooking = false;
		}
	}

	const MEETS: Record<Meets['how'], (meets: Meets) => string> = {
		wins: ({ name: other, messages }) => `It takes ${showMessages(messages)} first that “${other}” would take as well.`,
		loses: ({ name: other, messages }) => `“${other}” takes ${showMessages(messages)} of them first.`,
		'never-acts': ({ name: other }) => `It would never act: “${other}” takes all of them first.`,
		silences: ({ name: other }) => `“${other}” would never act any more.`,
		circle: ({ name: other }) => `It and “${other}” move mail in a circle: each message is moved once by each of them.`,
		stays: ({ name: other, messages }) => `${showMessages(messages)} would stay: ${other}.`,
		'before-its-time': ({ name: other, messages }) =>
			`${showMessages(messages)} would go before the period of ${other.replace(/^retention /, '')} has ended.`
	};
	const WARNS: readonly Meets['how'][] = ['never-acts', 'circle', 'before-its-time'];

	const submit: SubmitFunction =
		() =>
		async ({ result }) => {
			if (result.type === 'success') await goto(`${base}/desk/rules`);
			else if (result.type === 'failure') refused = String(result.data?.message ?? 'It could not be saved.');
		};
	const LABELS: Record<Group, string> = { thread: 'of each thread', sender: 'of each sender', list: 'of each list' };
</script>

<svelte:head><title>A new standing decision – {data.mailbox.name} – Kovrel</title></svelte:head>

<nav class="text-sm" aria-label="Where this is">
	<a class="lead" href="{base}/desk/rules">Standing decisions of {data.mailbox.name}</a>
</nav>
<h1>{copied ? `Rehearse “${copied.name}”` : 'A new standing decision'}</h1>

{#if data.list}
	<div class="border-stamp bg-stamp-soft my-2 border-l-4 px-3 py-2 text-sm">
		<b>{data.list.name}</b> is a list. {data.list.advice}
		<a class="lead" href="{base}/lists/{data.list.id}">Unsubscribe, or fold it into the digest, instead</a>
	</div>
{/if}

<div class="bg-sheet border-rule-strong mt-2 flex flex-col gap-3 border p-3">
	<label class="flex flex-col gap-1 text-sm"
		>Which mail, as a search. Sent mail stays unless a folder is named.
		<input
			class="field"
			bind:value={query}
			maxlength="1000"
			placeholder="from:harbour list:&quot;=weekly.example&quot; folder:Inbox"
		/></label
	>
	<fieldset class="flex flex-wrap items-end gap-3">
		<legend class="mb-1 text-sm font-semibold">What may stay</legend>
		<label class="flex flex-col gap-1 text-sm"
			>The newest
			<input class="field w-24" type="number" min="1" placeholder="any" bind:value={newest} /></label
		>
		<label class="flex flex-col gap-1 text-sm"
			>counted
			<select class="field" bind:value={per} disabled={!newest}>
				<option value="">all together</option>
				{#each GROUPS as group (group)}<option value={group}>{LABELS[group]}</option>{/each}
			</select></label
		>
		<PeriodField label="None older than" bind:period={age} />
		<label class="flex flex-col gap-1 text-sm"
			>No more together than (MB)
			<input
				class="field w-32"
				type="number"
				min="0.001"
				step="any"
				placeholder="any weight"
				bind:value={megabytes}
			/></label
		>
	</fieldset>
	<fieldset class="flex flex-wrap items-end gap-3">
		<legend class="mb-1 text-sm font-semibold">Decision on the rest</legend>
		<label class="flex flex-col gap-1 text-sm"
			>It is
			<select class="field" bind:value={what}>
				{#each STANDING_DECISIONS as decision (decision)}<option value={decision}
						>{decision === 'move'
							? 'moved to a folder'
							: decision === 'tag'
								? 'tagged'
								: decision === 'untag'
									? 'no longer tagged'
									: thenWords({ then: decision, options: {} })}</option
					>{/each}
				<option value="junk">marked as junk</option>
				<option value="pile">put on a pile</option>
			</select></label
		>
		{#if needsFolder}
			<label class="flex flex-col gap-1 text-sm"
				>{what === 'pile' ? 'Pile' : then === 'move' ? 'Folder' : 'Folder of the archive'}
				<input
					class="field w-64"
					list="folders"
					bind:value={folder}
					maxlength="2000"
					placeholder={then === 'move' ? '' : 'as the layout says'}
				/></label
			>
			<datalist id="folders"
				>{#each then === 'move' ? data.folders : data.archiveFolders as path (path)}<option value={path}
					></option>{/each}</datalist
			>
		{/if}
		{#if needsTag}
			<label class="flex flex-col gap-1 text-sm"
				>Tag <input class="field w-48" bind:value={tag} maxlength="200" /></label
			>
		{/if}
		{#if asksFlagged}
			<label class="flex items-center gap-2 pb-1.5 text-sm"
				><input type="checkbox" bind:checked={leavesFlagged} /> flagged mail stays</label
			>
		{/if}
	</fieldset>
	<fieldset class="flex flex-wrap items-end gap-3">
		<legend class="mb-1 text-sm font-semibold">From when to when</legend>
		<label class="flex flex-col gap-1 text-sm"
			>It takes
			<select class="field" bind:value={reach}>
				<option value="new">mail received from a day on</option>
				<option value="all">also mail that is there already</option>
			</select></label
		>
		{#if reach === 'new'}<label class="flex flex-col gap-1 text-sm"
				>From <DateField bind:value={since} about="past" /></label
			>{/if}
		<label class="flex flex-col gap-1 text-sm"
			>up to a day, if it ends <DateField bind:value={until} about="past" /></label
		>
		<label class="flex flex-col gap-1 text-sm"
			>Name <input class="field w-64" bind:value={name} maxlength="120" placeholder="made from what it says" /></label
		>
	</fieldset>
</div>

<form
	method="post"
	action={what === 'pile' ? '?/addPile' : '?/add'}
	use:enhance={submit}
	class="bg-docket border-rule-strong mt-3 border p-3"
>
	<input type="hidden" name="rule" value={asked} />
	<p class="font-semibold" data-testid="sentence">
		{sentence || (query.trim() ? `${wrong}.` : 'Say which mail it is about.')}
	</p>
	{#if refused}<p class="wrong mt-1" role="alert">{refused}</p>{/if}
	<div class="mt-1 text-sm" role="status" data-testid="rehearsal">
		{#if isLooking}
			Rehearsing with the mail of the last twelve months …
		{:else if rehearsed}
			<p>
				From {showDate(rehearsed.from)} to {showDate(rehearsed.to)} it would have {ruleOf(then).verb === 'delete'
					? 'deleted'
					: 'taken'}
				<b>{showMessages(rehearsed.messages)}</b> ({showBytes(
					rehearsed.bytes
				)}).{#if ruleOf(then).frees !== 'nothing'}&#32;The mailbox would be <b>{showBytes(rehearsed.freed)}</b>
					lighter{ruleOf(then).frees === 'at once' ? '' : ' once the bin is emptied'}.{/if}
			</p>
			{#each rehearsed.meets as meets, at (at)}
				<p class={WARNS.includes(meets.how) ? 'text-wax font-semibold' : ''}>{MEETS[meets.how](meets)}</p>
			{/each}
			{#if rehearsed.examples.length > 0}
				<p class="mt-1 font-semibold">The newest of them</p>
				<ul>
					{#each rehearsed.examples as example (example.id)}
						<li class="truncate">
							<span class="text-ink-soft inline-block w-24">{example.on ? showDate(example.on) : 'undated'}</span>
							{example.subject || '(no subject)'}
							<span class="text-ink-soft">from {example.from}, in {example.folder}</span>
						</li>
					{/each}
				</ul>
			{/if}
		{/if}
	</div>
	<div class="mt-2 flex gap-2">
		<button class="act" disabled={wrong !== undefined || !rehearsed}>Save the standing decision</button>
		<a class="quiet" href="{base}/desk/rules">Cancel</a>
	</div>
</form>
