<script lang="ts">
	import Explain from '$lib/components/frames/Explain.svelte';
	import { enhance } from '$lib/enhance.ts';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { daysBetween, showDate } from '../../../../../core/calendar.ts';
	import { showBytes, showCount, showMessages } from '../../../../../core/weigh/units.ts';

	let { data, form } = $props();

	const base = $derived(`/m/${data.mailboxId}`);
	const answer = $derived(form as { message?: string } | null);
	const days = (since: string) => {
		const passed = daysBetween(since, data.today);
		return passed === 0 ? 'today' : passed === 1 ? '1 day' : `${showCount(passed)} days`;
	};
</script>

<svelte:head><title>Piles – Kovrel</title></svelte:head>

<div class="flex items-center gap-2">
	<h1>Piles</h1>
	<Explain word="pile" />
</div>
<p class="mt-0.5 mb-3 max-w-3xl">
	A pile is a folder for mail that still needs something. Name your own: put a message on a pile at the desk, with the
	reason and the day until which it waits. On that day it stands on the desk again. A pile is meant to become empty.
</p>
<Refused message={answer?.message} />
{#if data.piles.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		There is no pile yet. At the <a class="lead" href="{base}/desk">desk</a>, <kbd>+</kbd> puts a message on a pile, and makes
		the pile if it is new.
	</p>
{:else}
	<table class="sheet">
		<thead
			><tr
				><th>Pile</th><th class="number">Messages</th><th class="number">Size</th><th>The oldest has waited</th><th
					class="number">For today</th
				><th class="w-44"><span class="sr-only">Decide</span></th></tr
			></thead
		>
		<tbody>
			{#each data.piles as { folderId, path, messages, bytes, waitsSince, due } (folderId)}
				<tr>
					<td class="font-semibold"><a class="lead" href="{base}/desk?of=pile-{folderId}">{path}</a></td>
					<td class="number"
						><a class="lead" href="{base}/folders/{folderId}" aria-label="{showMessages(messages)} of {path}"
							>{showCount(messages)}</a
						></td
					>
					<td class="number">{showBytes(bytes)}</td>
					<td class="text-sm">{waitsSince ? `${days(waitsSince)}, since ${showDate(waitsSince)}` : ''}</td>
					<td class="number"
						>{#if due > 0}<a class="lead" href="{base}/desk?of=waited">{showCount(due)}</a>{:else}0{/if}</td
					>
					<td>
						<form method="post" action="?/end" use:enhance>
							<input type="hidden" name="folderId" value={folderId} />
							<button class="quiet text-sm">Make it a folder</button>
						</form>
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
{/if}
