<script lang="ts">
	import { superForm } from 'sveltekit-superforms';
	import { untrack } from 'svelte';
	import DocketFolders from '$lib/components/DocketFolders.svelte';
	import { showMoment } from '$lib/moments.ts';
	import Refused from '$lib/components/Refused.svelte';

	let { data } = $props();

	const { form, errors, message, enhance, submitting } = superForm(
		untrack(() => data.form),
		{ resetForm: false, invalidateAll: true }
	);
	// a row of Weigh leads here with a folder or a date
	$effect(() => {
		form.set(data.form.data);
	});
</script>

<svelte:head><title>Clear {data.mailbox.name} – Kovrel</title></svelte:head>

<h1>Archive what is old</h1>
<p class="mt-1 max-w-2xl">
	Everything received before the cutoff date goes to the archive, in the same folders. There it stays searchable and can
	be had back; here it no longer counts against the quota.
</p>

<form
	method="post"
	action="?/draft"
	use:enhance
	class="bg-sheet border-rule-strong my-4 flex flex-wrap items-end gap-4 border p-4"
>
	<label class="flex flex-col gap-1">
		<span class="text-sm font-semibold">Received before</span>
		<input
			class="field"
			type="date"
			name="before"
			bind:value={$form.before}
			aria-invalid={$errors.before ? 'true' : undefined}
			aria-describedby={$errors.before ? 'before-wrong' : undefined}
			required
		/>
		{#if $errors.before}<span id="before-wrong" class="text-wax text-sm">{$errors.before.join(' ')}</span>{/if}
	</label>
	<label class="flex flex-col gap-1">
		<span class="text-sm font-semibold">From</span>
		<select class="field" name="folder" bind:value={() => $form.folder ?? '', (path) => ($form.folder = path)}>
			<option value="">the whole mailbox</option>
			{#each data.folders as folder (folder.id)}<option value={folder.path}
					>{'\u2003'.repeat(folder.depth)}{folder.name}{folder.messagesBelow > folder.messages
						? ' and its subfolders'
						: ''}</option
				>{/each}
		</select>
	</label>
	<button class="act" disabled={$submitting}>{$submitting ? 'Counting …' : 'Count it, and draft a docket'}</button>
	<span class="text-ink-soft pb-2 text-sm">Nothing happens yet.</span>
</form>
<Refused message={$message as string | undefined} />

{#if data.full}
	<h2 class="mb-1.5">What docket {data.full.id} would do</h2>
	<DocketFolders docket={data.full} />
{:else}
	<p class="text-ink-soft">
		When a docket is drafted, it stands here folder by folder, and its sum on the slip to the right.
	</p>
{/if}

{#if data.past.length > 0}
	<h2 class="mt-6 mb-1.5">Dockets before</h2>
	<table class="sheet">
		<thead><tr><th>Docket</th><th>What</th><th>When and by whom</th><th>State</th></tr></thead>
		<tbody>
			{#each data.past as docket (docket.id)}
				<tr>
					<td><a class="lead" href="/dockets/{docket.id}">{docket.id}</a></td>
					<td>{docket.sentences.join(' ')}</td>
					<td class="whitespace-nowrap">{showMoment(docket.carriedOutAt)}, {docket.carriedOutBy}</td>
					<td class="whitespace-nowrap">{docket.state.replace('-', ' ')}</td>
				</tr>
			{/each}
		</tbody>
	</table>
{/if}
