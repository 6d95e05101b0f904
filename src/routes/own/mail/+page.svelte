<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import MessageSheet from '$lib/components/sheet/MessageSheet.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import SearchBox from '$lib/components/forms/SearchBox.svelte';
	import { leftSentence } from '../../../core/docket/left.ts';

	let { data, form } = $props();

	const drafts = $derived(data.dockets.filter(({ state }) => state === 'drafted'));
	const past = $derived(data.dockets.filter(({ state }) => state === 'carried-out'));

	function search(q: string, done: boolean) {
		const address = new URL(page.url);
		for (const [name, value] of Object.entries({ q, typing: done ? '' : '1', page: '' }))
			if (value === '') address.searchParams.delete(name);
			else address.searchParams.set(name, value);
		void goto(address, { keepFocus: true, noScroll: true, replaceState: !done });
	}
</script>

<svelte:head><title>Mail of {data.mine?.name} – Kovrel</title></svelte:head>

<main class="px-3 sm:px-5 py-3">
	<h1 class="mb-2">
		{data.asked.review === undefined ? `Mail of ${data.mine?.name}` : `For review in ${data.mine?.name}`}
	</h1>
	{#each drafts as docket (docket.id)}
		<section class="bg-docket border-rule-strong mb-2 border p-3" aria-label="Your docket {docket.id}">
			<p><b>Docket {docket.id}, not carried out yet.</b> {docket.sentences.join(' ')}</p>
			{#each docket.lines.flatMap(({ left }) => left) as left, at (at)}<p class="text-sm">
					{leftSentence(left)}
				</p>{/each}
			<form method="post" use:enhance class="mt-2 flex gap-2">
				<input type="hidden" name="id" value={docket.id} />
				<button class="act text-sm" formaction="?/carryOut" disabled={docket.messages === 0}
					>{docket.messages === 0 ? 'Nothing to carry out' : 'Carry it out'}</button
				>
				<button class="quiet text-sm" formaction="?/discard">Discard</button>
			</form>
		</section>
	{/each}
	<SearchBox value={data.asked.q} onSearch={search} />
	{#if data.sheet}
		<MessageSheet sheet={data.sheet} answer={form}>
			{#snippet empty()}No message of yours matches.{/snippet}
		</MessageSheet>
	{:else}<Refused message={data.refused} />{/if}
	{#if past.length > 0}
		<details class="mt-4">
			<summary class="cursor-pointer font-semibold">Your last dockets</summary>
			<ul class="mt-1 text-sm">
				{#each past as docket (docket.id)}
					<li class="border-rule flex items-center gap-3 border-b py-1">
						<span class="flex-1">{docket.sentences.join(' ')}</span>
						<form method="post" action="?/takeBack" use:enhance>
							<input type="hidden" name="id" value={docket.id} />
							<button class="quiet px-2! py-0! text-sm">Take back</button>
						</form>
					</li>
				{/each}
			</ul>
		</details>
	{/if}
</main>
