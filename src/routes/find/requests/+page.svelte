<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import Refused from '$lib/components/forms/Refused.svelte';
	import RequestWords from '$lib/components/forms/RequestWords.svelte';
	import { showMoment } from '$lib/moments.ts';

	let { data, form } = $props();
	const answer = $derived(form as { message?: string; asked?: number } | null);
	const STATES = { open: 'waits', granted: 'granted', 'in-part': 'granted in part', declined: 'declined' } as const;
</script>

<svelte:head><title>My requests – Kovrel</title></svelte:head>

<main class="px-3 sm:px-5 py-4">
	<h1>My requests</h1>
	<div class="my-2">
		<Refused message={answer?.message} />
		{#if answer?.asked}<p role="status">Your request was sent. The answer comes here.</p>{/if}
	</div>
	{#if data.requests.length === 0}
		<p class="bg-sheet border-rule-strong mb-5 border p-5">
			You have made no request yet. If you find a message that you may not restore, request it there.
			{#if data.reach.others.length > 0}To read other mail, ask for access below.{/if}
		</p>
	{:else}
		<table class="sheet mb-5">
			<thead><tr><th>When</th><th>What</th><th>Why</th><th>Answer</th></tr></thead>
			<tbody>
				{#each data.requests as request (request.id)}
					<tr>
						<td class="whitespace-nowrap">{showMoment(request.madeAt)}</td>
						<td><RequestWords {request} /></td>
						<td>{request.because}</td>
						<td
							><b class:text-wax={request.state === 'declined'}>{STATES[request.state]}</b
							>{#if request.state !== 'open' && request.noticedAt === null}<b>, new</b>{/if}
							{#if request.answeredBy}<span class="block text-sm"
									>by {request.answeredBy}{request.word ? `: ${request.word}` : ''}</span
								>{/if}</td
						>
					</tr>
				{/each}
			</tbody>
		</table>
	{/if}
	{#if data.reach.others.length > 0}
		<h2 class="mb-1">Ask for access</h2>
		<form
			method="post"
			action="?/ask"
			use:enhance
			class="bg-sheet border-rule-strong flex flex-wrap items-end gap-3 border p-3"
		>
			<label class="flex flex-col gap-1"
				>Mailbox
				<select class="field" name="mailbox" required>
					{#each data.reach.others as name (name)}<option>{name}</option>{/each}
				</select></label
			>
			<label class="flex flex-col gap-1"
				>Only this folder (empty: all of it)<input class="field" name="folder" maxlength="1000" /></label
			>
			<label class="flex flex-1 flex-col gap-1"
				>Why do you need it?<input class="field" name="because" required maxlength="2000" /></label
			>
			<button class="act">Ask for access</button>
		</form>
	{/if}
</main>
