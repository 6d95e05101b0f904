<script lang="ts">
	import type { SubmitFunction } from '@sveltejs/kit';
	import { enhance } from '$lib/enhance.ts';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { untrack } from 'svelte';
	import AwaitForm from '$lib/components/message/AwaitForm.svelte';
	import DateField from '$lib/components/forms/DateField.svelte';
	import DecisionBar from '$lib/components/docket/DecisionBar.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showMoment } from '$lib/moments.ts';
	import type { DecisionResult } from '$lib/server/docket/index.ts';
	import type { SendOutcome } from '$lib/server/writing/index.ts';
	import type { ItemState } from '../../../../../core/docket/decision.ts';
	import { decisionsFor } from '../../../../../core/docket/decisions.ts';
	import { showMessages } from '../../../../../core/weigh/units.ts';
	import { unsentWords } from '../../../../../core/writing/outgoing.ts';

	let { data, form } = $props();

	const answer = $derived(
		form as { message?: string; kept?: number; sent?: SendOutcome; decided?: DecisionResult[] } | null
	);
	/* When an office begins. */
	const USUAL_TIME = '08:00';
	const HEADINGS = { new: 'New mail', reply: 'Reply', 'reply-all': 'Reply to all', forward: 'Forward' };
	const mail = $derived(data.mail);
	const deciding = $derived(data.sheet?.deciding);

	/* ---- what is written ---- */

	let from = $state('');
	let to = $state('');
	let cc = $state('');
	let subject = $state('');
	let text = $state('');
	let attaches = $state(false);
	let folder = $state('');
	let tags = $state('');
	let word = $state('');
	let series = $state('');
	/* When it goes: the day, and the time of it in this browser's zone. */
	let day = $state('');
	let time = $state(USUAL_TIME);
	let sent = $state.raw<SendOutcome>();
	/* The mail under which this is stored, once it is. */
	let stored = $state<number>();
	const question = $derived(page.url.search);
	const isFiled = $derived(Object.values(mail.filing).some((given) => given?.length));
	let isFiling = $derived(isFiled);
	const localTime = (iso: string) => {
		const there = new Date(iso);
		return new Date(there.getTime() - there.getTimezoneOffset() * 60_000).toISOString().slice(0, 16).split('T');
	};
	$effect.pre(() => {
		void question;
		untrack(() => {
			({ from, to, cc, subject, text } = mail);
			attaches = mail.attachesOriginal;
			folder = mail.filing.folder ?? '';
			tags = (mail.filing.tags ?? []).join(', ');
			word = mail.filing.class ?? '';
			series = mail.filing.series ?? '';
			[day = '', time = USUAL_TIME] = mail.sendAt ? localTime(mail.sendAt) : [];
			stored = mail.id;
			sent = undefined;
		});
	});
	const given = $derived({
		...(stored === undefined ? {} : { id: stored }),
		mailboxId: data.mailboxId,
		kind: mail.kind,
		...(mail.original ? { itemId: mail.original.id } : {}),
		from,
		to,
		cc,
		subject,
		text,
		attachesOriginal: attaches,
		filing: {
			...(folder.trim() ? { folder: folder.trim() } : {}),
			...(tags.trim()
				? {
						tags: tags
							.split(',')
							.map((tag) => tag.trim())
							.filter(Boolean)
					}
				: {}),
			...(word ? { class: word } : {}),
			...(series ? { series } : {})
		}
	});
	const sendAt = $derived.by(() => {
		const moment = new Date(`${day}T${time.trim().padStart(5, '0')}`);
		return day === '' || Number.isNaN(moment.getTime()) ? undefined : moment.toISOString();
	});

	/* ---- sending ---- */

	let isBusy = $state(false);
	let refused = $state<string>();
	let said = $state<string>();

	const work: SubmitFunction = () => {
		isBusy = true;
		refused = said = undefined;
		return async ({ result, update }) => {
			isBusy = false;
			if (result.type === 'failure') refused = String(result.data?.message);
			else await update({ reset: false });
			if (result.type !== 'success') return;
			const done = result.data as { kept?: number; sent?: SendOutcome };
			if (done.kept !== undefined) {
				stored = done.kept;
				if (sendAt) await goto(`/m/${data.mailboxId}/desk/outgoing`);
				else said = 'It is kept as a draft, under Outgoing.';
			} else if (done.sent?.isSent) sent = done.sent;
			else if (done.sent) {
				stored = done.sent.id;
				refused = `${unsentWords(done.sent)}. It is kept under Outgoing, ${done.sent.isUnknown ? 'where you say whether it went' : 'and can be sent again'}.`;
			}
		};
	};

	/* ---- the thread, once it has gone ---- */

	const live = $derived((data.sheet?.hits ?? []).filter(({ state }) => state === 'live'));
	const liveIds = $derived(live.map(({ id }) => id));
	let bar = $state<DecisionBar>();

	function onKey(event: KeyboardEvent) {
		const target = event.target as HTMLElement;
		if (!bar || event.ctrlKey || event.altKey || event.metaKey || event.repeat) return;
		if (target.closest('input:not([type=checkbox]), textarea, select, [role=dialog]')) return;
		if (!/^[1-9]$/.test(event.key)) return;
		bar.pressDigit(Number(event.key));
		event.preventDefault();
	}
	let decided = $state.raw<DecisionResult[]>();
	$effect(() => {
		if (answer?.decided) decided = answer.decided;
	});
</script>

<svelte:head><title>{HEADINGS[mail.kind]} – Kovrel</title></svelte:head>

<svelte:window onkeydown={onKey} />

<h1>{HEADINGS[mail.kind]}</h1>
<p class="mt-0.5 mb-2 text-sm">
	{#if mail.original}About “{mail.original.subject || '(no subject)'}” from {mail.original.fromName ||
			mail.original.fromAddress}.{:else}Plain text, from {mail.mailbox.name}.{/if}
	{#if !data.canSend}<b class="text-wax">No server for outgoing mail is set: mail can be written and kept, not sent.</b
		>{/if}
</p>
<Refused
	message={refused ?? answer?.message ?? (mail.state === 'failed' ? `It was not sent: ${mail.said}.` : undefined)}
/>
{#if said}<p class="bg-stamp-soft border-stamp mb-2 border-l-4 px-3 py-1.5" role="status">{said}</p>{/if}

{#if sent}
	<section class="bg-sheet border-rule-strong flex flex-col gap-3 border p-4" aria-label="Sent">
		<p role="status" data-testid="sent">
			<b>Sent to {to}{cc ? `, with a copy to ${cc}` : ''}.</b>
			{#if sent.itemId !== undefined}A copy lies in {given.filing.folder ?? 'the folder of sent mail'}.{:else}Its copy
				is filed by the next nightly round.{/if}
			<span class="text-ink-soft">The server said: {sent.said}.</span>
		</p>
		{#if decided}
			{#each decided as one (one.mailbox)}<p role="status" data-testid="decided">
					{one.sentences.join(' ') || 'It is on the docket.'}
				</p>{/each}
		{:else if deciding && liveIds.length > 0}
			<p>Decide on the thread, {showMessages(liveIds.length)}:</p>
			<DecisionBar
				bind:this={bar}
				selected={{ messages: live.length, bytes: live.reduce((sum, { bytes }) => sum + bytes, 0) }}
				wish={{ ids: liveIds }}
				offered={decisionsFor(['live' as ItemState], 'administrator')}
				isAtOnce={liveIds.length <= deciding.atOnce}
				folders={deciding.folders}
				archiveFolders={deciding.archiveFolders}
				tags={deciding.tags}
				recent={deciding.recent}
				series={deciding.series}
				holds={deciding.holds}
				hasSeveralTags
				action="?/decide{page.url.search.replace('?', '&')}"
				onSend={() => () => {}}
				onRefused={(message) => (refused = message)}
			/>
			<AwaitForm
				ids={liveIds}
				action="?/await{page.url.search.replace('?', '&')}"
				onRefused={(why) => (refused = why)}
			/>
		{/if}
		<p class="flex gap-3">
			<a class="act" href="/m/{data.mailboxId}/desk">Back to the desk</a>
			<a class="quiet" href="/m/{data.mailboxId}/desk/outgoing">Outgoing mail</a>
		</p>
	</section>
{:else}
	<form
		method="post"
		use:enhance={work}
		class="bg-sheet border-rule-strong flex flex-col gap-2 border p-4"
		aria-label={HEADINGS[mail.kind]}
	>
		<div class="fields">
			<label for="from">From</label>
			{#if mail.own.length > 1}<select id="from" class="field" bind:value={from}
					>{#each mail.own as address (address)}<option>{address}</option>{/each}</select
				>{:else}<span>{from}</span>{/if}
			<label for="to">To</label>
			<input
				id="to"
				class="field"
				bind:value={to}
				maxlength="9000"
				placeholder="nora@quay.example, Emre <emre@quay.example>"
			/>
			<label for="cc">Copy to</label>
			<input id="cc" class="field" bind:value={cc} maxlength="9000" />
			<label for="subject">Subject</label>
			<input id="subject" class="field" bind:value={subject} maxlength="500" />
		</div>
		<label class="sr-only" for="text">Text</label>
		<textarea
			id="text"
			class="field min-h-72 font-mono text-sm"
			bind:value={text}
			rows="16"
			{@attach (field) => {
				if (mail.kind !== 'reply' && mail.kind !== 'reply-all') return;
				field.focus();
				field.setSelectionRange(0, 0);
			}}></textarea>
		{#if mail.original}<label class="flex items-center gap-2 text-sm"
				><input type="checkbox" bind:checked={attaches} /> Attach the original message, with its files</label
			>{/if}
		{#if deciding}
			<details class="text-sm" bind:open={isFiling}>
				<summary class="cursor-pointer font-semibold">Filing of its copy</summary>
				<div class="fields mt-2">
					<label for="folder">Folder</label>
					<input
						id="folder"
						class="field"
						list="write-folders"
						bind:value={folder}
						placeholder="the folder of sent mail"
					/>
					<label for="tags">Tags</label>
					<input id="tags" class="field" list="write-tags" bind:value={tags} placeholder="separated by commas" />
					<label for="class">Class</label>
					<select id="class" class="field" bind:value={word}
						><option value="">the folder's</option
						>{#each page.data.classes ?? [] as { id, word: named, name } (id)}<option value={named}>{name}</option
							>{/each}</select
					>
					<label for="series">Series</label>
					<select id="series" class="field" bind:value={series}
						><option value="">the folder's</option>{#each deciding.series as { code, title } (code)}<option value={code}
								>{code} {title}</option
							>{/each}</select
					>
				</div>
				<datalist id="write-folders"
					>{#each deciding.folders as name (name)}<option value={name}></option>{/each}</datalist
				>
				<datalist id="write-tags"
					>{#each deciding.tags as name (name)}<option value={name}></option>{/each}</datalist
				>
			</details>
		{/if}
		<div class="flex flex-wrap items-center gap-3">
			<button
				class="act"
				formaction="?/send{page.url.search.replace('?', '&')}"
				name="wish"
				value={JSON.stringify(given)}
				disabled={isBusy || !data.canSend}>Send now</button
			>
			<label class="flex items-center gap-2 text-sm">or on <DateField bind:value={day} min={page.data.today} /></label>
			<label class="flex items-center gap-2 text-sm"
				>at <input
					class="field w-16"
					bind:value={time}
					required={day !== ''}
					pattern="([01]?[0-9]|2[0-3]):[0-5][0-9]"
					title="A time of day, such as 9:00 or 17:30"
					autocomplete="off"
				/></label
			>
			<button
				class="quiet"
				formaction="?/keep{page.url.search.replace('?', '&')}"
				name="wish"
				value={JSON.stringify({ ...given, ...(sendAt ? { sendAt } : {}) })}
				disabled={isBusy}>{sendAt ? `Send on ${showMoment(sendAt)}` : 'Keep as a draft'}</button
			>
			<a class="quiet" href="/m/{data.mailboxId}/desk">Back to the desk</a>
			{#if isBusy}<span role="status">Sending …</span>{/if}
		</div>
	</form>
{/if}

<style>
	.fields {
		display: grid;
		grid-template-columns: 5.5rem minmax(0, 1fr);
		gap: 0.4rem 0.75rem;
		align-items: center;
	}
</style>
