<script lang="ts">
	import Explain from '$lib/components/frames/Explain.svelte';
	import { enhance } from '$lib/enhance.ts';
	import MessageDrawer from '$lib/components/message/MessageDrawer.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { daysBetween, showDate } from '../../../../../core/calendar.ts';
	import { showCount } from '../../../../../core/weigh/units.ts';

	let { data, form } = $props();

	const waits = $derived(data.waits);
	const answer = $derived(form as { message?: string; stopped?: string } | null);
	let open = $state<number>();
	const days = (since: string) => {
		const passed = daysBetween(since, data.today);
		return passed === 0 ? 'today' : passed === 1 ? '1 day' : `${showCount(passed)} days`;
	};
</script>

<svelte:head><title>Awaited – Kovrel</title></svelte:head>

<div class="flex items-center gap-2">
	<h1>Awaited answers</h1>
	<Explain word="awaited" />
</div>
<p class="mt-0.5 mb-3 max-w-3xl">
	These threads are archived until they are answered. An answer brings a thread back to its folder, and so does its day.
	Set one at the desk (<kbd>?</kbd>) or on an open message.
</p>
<Refused message={answer?.message} />
{#if answer?.stopped}<p class="bg-stamp-soft border-stamp mb-2 border-l-4 px-3 py-1.5" role="status">
		Its answer is no longer awaited. {answer.stopped === 'restored'
			? 'It was restored to its folder.'
			: 'It stays archived.'}
	</p>{/if}
{#if waits.awaited.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		No answer is awaited. Archive a thread until it is answered, and it stands here until then.
	</p>
{:else}
	<table class="sheet">
		<thead
			><tr
				><th>Thread</th><th>With</th><th>Awaited</th><th>Back without an answer</th><th>Because</th><th class="w-36"
					><span class="sr-only">Decide</span></th
				></tr
			></thead
		>
		<tbody>
			{#each waits.awaited as wait (wait.id)}
				<tr>
					<td class="max-w-72 truncate font-semibold"
						><button class="lead" type="button" onclick={() => (open = wait.itemId)}
							>{wait.subject || '(no subject)'}</button
						></td
					>
					<td class="max-w-48 truncate text-sm">{wait.who}</td>
					<td class="text-sm whitespace-nowrap"
						>{days(wait.since)}<br /><span class="text-ink-soft">{showDate(wait.since)}</span></td
					>
					<td class="text-sm whitespace-nowrap">{wait.until ? showDate(wait.until) : 'never'}</td>
					<td class="max-w-56 truncate text-sm">{wait.because}</td>
					<td>
						<form method="post" action="?/stop" use:enhance class="flex flex-wrap gap-1">
							<input type="hidden" name="id" value={wait.id} />
							<button class="quiet text-sm" name="restores" value="true">Restore now</button>
							<button class="quiet text-sm" name="restores" value="false">Stop awaiting</button>
						</form>
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
{/if}

<form method="post" action="?/returning" use:enhance class="mt-5 flex flex-wrap items-center gap-3 text-sm">
	<span
		>{waits.returnsAnswered
			? `Every archived thread of ${waits.mailbox.name} comes back when it is answered.`
			: `Other archived threads of ${waits.mailbox.name} stay archived when an answer comes.`}</span
	>
	<button class="quiet text-sm" name="returns" value={waits.returnsAnswered ? 'false' : 'true'}
		>{waits.returnsAnswered ? 'Leave them archived' : 'Bring all answered threads back'}</button
	>
</form>
<MessageDrawer bind:id={open} marking={false} />
