<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import MonthBars from '$lib/components/charts/MonthBars.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { keepFields } from '$lib/keep-fields.ts';
	import { showDate } from '../../../../../core/calendar.ts';
	import { showCount } from '../../../../../core/weigh/units.ts';

	let { data, form } = $props();

	const answer = $derived(form as { message?: string; set?: boolean; making?: boolean } | null);
</script>

<svelte:head><title>Digest – Kovrel</title></svelte:head>

<h1>The digest</h1>
<p class="mt-1 mb-3 max-w-3xl">
	For lists worth keeping, but not one by one: Kovrel folds their issues into one message, with a summary in front. It
	archives the single issues, which open from the digest. The first time you carry out the docket that archives them;
	afterwards it runs every night. Flagged and kept mail stays where it is.
</p>
<Refused message={answer?.message} />

<form
	method="post"
	action="?/set"
	use:enhance={keepFields}
	class="bg-sheet border-rule-strong mb-4 flex flex-wrap items-end gap-4 border p-3"
>
	<label class="flex flex-col gap-1 text-sm"
		><span>One message</span>
		<select class="field" name="every" value={data.mailbox.digestEvery}>
			<option value="day">a day</option>
			<option value="week">a week</option>
		</select></label
	>
	<label class="flex flex-col gap-1 text-sm"
		><span>filed in</span>
		<input class="field w-60" name="folder" list="digest-folders" value={data.mailbox.digestFolder} required /></label
	>
	<datalist id="digest-folders"
		>{#each data.folders as path (path)}<option value={path}></option>{/each}</datalist
	>
	<button class="act">Save</button>
	{#if answer?.set}<p role="status">Saved.</p>{/if}
</form>

{#if data.lists.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		No list is folded yet. Select lists on <a class="lead" href="../lists?all=1">their sheet</a> and press 3.
	</p>
{:else}
	<table class="sheet">
		<thead
			><tr
				><th>List</th><th class="number">Messages</th><th>By month</th><th>Last wrote</th><th
					><span class="sr-only">Take out</span></th
				></tr
			></thead
		>
		<tbody>
			{#each data.lists as list (list.id)}
				<tr>
					<td class="name font-semibold">{list.name}</td>
					<td class="number">{showCount(list.messages)}</td>
					<td><MonthBars months={list.months} /></td>
					<td class="whitespace-nowrap">{list.last ? showDate(list.last) : 'not dated'}</td>
					<td class="number">
						<form method="post" action="?/takeOut" use:enhance>
							<input type="hidden" name="id" value={list.id} />
							<button class="lead" aria-label="Take {list.name} out of the digest">take out</button>
						</form>
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
	<form method="post" action="?/make" use:enhance class="mt-3 flex items-center gap-3">
		<button class="quiet">Make the digest now</button>
		<span class="text-ink-soft text-sm">of whole days that have passed; otherwise it is made every night</span>
	</form>
{/if}
