<script lang="ts">
	import Explain from '$lib/components/frames/Explain.svelte';
	import { enhance } from '$lib/enhance.ts';
	import { page } from '$app/state';
	import Refused from '$lib/components/forms/Refused.svelte';
	import type { KeepHits } from '$lib/server/keep-list/index.ts';
	import { showMoment } from '$lib/moments.ts';
	import { showCount, showMessages } from '../../../../../core/weigh/units.ts';

	let { data, form } = $props();

	const answer = $derived(
		form as {
			message?: string;
			hits?: KeepHits[];
			text?: string;
			all?: boolean;
			decided?: number;
		} | null
	);
	let text = $state('');
	let decision = $state<'keep' | 'tag' | 'move'>('keep');
	let searching = $state(false);
	const found = $derived((answer?.hits ?? []).filter(({ messages }) => messages > 0));
	const sum = $derived(found.reduce((total, { messages }) => total + messages, 0));
	const WORDS = { keep: 'kept', tag: 'tagged', move: 'moved' };

	async function readFile(event: Event & { currentTarget: HTMLInputElement }) {
		const file = event.currentTarget.files?.[0];
		if (file) text = await file.text();
	}
</script>

<svelte:head><title>Keep-list – Kovrel</title></svelte:head>

<div class="flex items-center gap-2">
	<h1>Keep-list</h1>
	<Explain word="keep-list" />
</div>
<p class="mt-1 mb-3 max-w-3xl">
	Words, names, subjects, case and vessel numbers that must be kept: one a line, or the first column of a CSV. All lines
	are searched in one go, in subjects, texts, names and names of files.
</p>
<Refused message={answer?.message} />

<form
	method="post"
	action="?/search"
	use:enhance={() => {
		searching = true;
		return async ({ update }) => {
			await update({ reset: false });
			searching = false;
		};
	}}
	class="bg-sheet border-rule-strong flex flex-col gap-3 border p-4"
>
	<label class="flex flex-col gap-1"
		><span class="text-sm font-semibold">The list</span>
		<textarea
			class="field min-h-32"
			name="text"
			rows="6"
			bind:value={text}
			required
			placeholder="MV Terne, slipway claim, NF-2024-118 …"></textarea></label
	>
	<div class="flex flex-wrap items-center gap-4">
		<label class="lead cursor-pointer text-sm"
			>or read a file <input
				type="file"
				accept=".txt,.csv,text/plain,text/csv"
				class="sr-only"
				onchange={readFile}
			/></label
		>
		<label class="flex items-center gap-1.5 text-sm"
			><input type="checkbox" name="all" value="1" /> in all mailboxes</label
		>
		<button class="act ml-auto" disabled={searching}>{searching ? 'Searching …' : 'Search every line'}</button>
	</div>
</form>

{#if answer?.decided !== undefined}
	<p role="status" class="mt-3">
		It is on the docket{answer.decided > 1 ? ` of ${showCount(answer.decided)} mailboxes` : ''}. Nothing happens until
		it is carried out.
	</p>
{/if}

{#if answer?.hits}
	<h2 class="mt-5 mb-1.5">
		{showCount(answer.hits.length)}
		{answer.hits.length === 1 ? 'line' : 'lines'}, {showCount(found.length)} with hits
	</h2>
	<table class="sheet">
		<thead
			><tr><th>Line</th><th class="number">Messages</th><th class="number">In the bin</th><th>For example</th></tr
			></thead
		>
		<tbody>
			{#each answer.hits as { line, query, messages, messagesIsMore, binned, examples } (line)}
				{@const found = `/m/${page.params.mailbox}/archive?q=${encodeURIComponent(query)}${answer.all ? '&all=1' : ''}`}
				<tr>
					<td class="font-semibold">{line}</td>
					<td class="number"
						>{#if messages > 0}<a class="lead" href={found} title="Open the messages"
								>{messagesIsMore ? 'more than ' : ''}{showCount(messages)}</a
							>{:else}0{/if}</td
					>
					<td class="number"
						>{#if binned > 0}<a class="lead" href="{found}&where=binned" title="Open them, to restore what must be kept"
								>{showCount(binned)}</a
							>{:else}0{/if}</td
					>
					<td class="text-sm">{examples.join(' · ') || 'nothing found'}</td>
				</tr>
			{/each}
		</tbody>
	</table>
	<form
		method="post"
		action="?/decide"
		use:enhance
		class="bg-sheet border-rule-strong mt-3 flex flex-wrap items-end gap-4 border p-4"
	>
		<input type="hidden" name="text" value={answer.text} />
		{#if answer.all}<input type="hidden" name="all" value="1" />{/if}
		<label class="flex flex-col gap-1"
			><span class="text-sm font-semibold">Hits are</span>
			<select class="field" name="decision" bind:value={decision}>
				{#each Object.entries(WORDS) as [value, name] (value)}<option {value}>{name}</option>{/each}
			</select></label
		>
		{#if decision === 'tag'}
			<label class="flex flex-col gap-1"
				><span class="text-sm font-semibold">with the tag</span>
				<input class="field" name="tag" list="keep-tags" required maxlength="200" /></label
			>
			<datalist id="keep-tags"
				>{#each data.tags as name (name)}<option value={name}></option>{/each}</datalist
			>
		{:else if decision === 'move'}
			<label class="flex flex-col gap-1"
				><span class="text-sm font-semibold">to the folder</span>
				<input class="field" name="folder" list="keep-folders" required maxlength="2000" /></label
			>
			<datalist id="keep-folders"
				>{#each data.folders as path (path)}<option value={path}></option>{/each}</datalist
			>
		{/if}
		<label class="flex items-center gap-1.5 pb-2 text-sm"
			><input type="checkbox" name="standing" value="1" /> and to new mail</label
		>
		<button class="act" disabled={found.length === 0}>Put {showMessages(sum)} on the docket</button>
		{#if found.length > 1}<span class="text-ink-soft pb-2 text-sm">a message found by several lines counts once</span
			>{/if}
	</form>
{/if}

<h2 class="mt-6 mb-1.5">Applied to new mail</h2>
{#if data.standing.length === 0}
	<p class="text-ink-soft">No line yet. Tick “and to new mail” when you decide on a list.</p>
{:else}
	<table class="sheet">
		<thead
			><tr><th>Line</th><th>Hits are</th><th>Since</th><th><span class="sr-only">Stop applying</span></th></tr></thead
		>
		<tbody>
			{#each data.standing as line (line.id)}
				<tr>
					<td class="font-semibold">{line.text}</td>
					<td>{WORDS[line.decision as keyof typeof WORDS]} {line.options.tag ?? line.options.folder ?? ''}</td>
					<td>{showMoment(line.madeAt)}, {line.madeBy}</td>
					<td class="number">
						<form method="post" action="?/drop" use:enhance>
							<input type="hidden" name="line" value={line.id} />
							<button class="lead" aria-label="Stop applying {line.text}">stop applying</button>
						</form>
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
{/if}
