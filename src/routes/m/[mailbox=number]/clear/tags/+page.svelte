<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import DecidedResults from '$lib/components/sheet/DecidedResults.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import TagMark from '$lib/components/message/TagMark.svelte';
	import type { DecisionResult } from '$lib/server/docket/index.ts';
	import { TAG_COLOURS } from '../../../../../core/tags/colours.ts';
	import { tagNames } from '../../../../../core/tags/names.ts';
	import { showBytes, showCount } from '../../../../../core/weigh/units.ts';

	let { data, form } = $props();

	let withHidden = $state(false);
	const shown = $derived(data.tags.filter(({ hidden }) => withHidden || !hidden));
	const hidden = $derived(data.tags.filter((tag) => tag.hidden).length);
	const answer = $derived(
		form as {
			message?: string;
			said?: string;
			cleared?: string;
			isRemoved?: boolean;
			decided?: DecisionResult[];
		} | null
	);
	let isDismissed = $state(false);
	$effect(() => {
		void form;
		isDismissed = false;
	});
	const find = (name: string) => `/m/${data.mailboxId}/archive?q=${encodeURIComponent(`tag:"${name}"`)}`;
</script>

<svelte:head><title>Tags – Kovrel</title></svelte:head>

<h1>Tags</h1>
<p class="mt-1 mb-3 max-w-3xl">
	A tag is a word on a message; a message can have several. <code>Vessels/MV Terne</code> lies below
	<code>Vessels</code>. Tags are put on messages and removed from them by a docket, in
	<a class="lead" href="/m/{data.mailboxId}/clear/lots">Lots</a>
	or
	<a class="lead" href="/m/{data.mailboxId}/clear/folders">Folders</a>; the letter says the same as the colour.
</p>
<Refused message={answer?.message} />
{#if answer?.said}<p role="status" class="mb-2">{answer.said}</p>{/if}
{#if answer?.cleared !== undefined && !isDismissed}
	<div class="mb-3 flex flex-col gap-2">
		<p role="status">
			{#if answer.isRemoved}The tag <b>{answer.cleared}</b> is removed.{:else}The tag <b>{answer.cleared}</b> stays until
				the docket below is carried out. Then remove the empty tag here.{/if}
		</p>
		<DecidedResults decided={answer.decided ?? []} onTakenBack={() => (isDismissed = true)} />
	</div>
{/if}

<form
	method="post"
	action="?/make"
	use:enhance
	class="bg-sheet border-rule-strong mb-4 flex flex-wrap items-end gap-3 border p-3"
>
	<label class="flex flex-col gap-1"
		><span class="text-sm font-semibold">A new tag</span>
		<input class="field w-64" name="tag" required maxlength="200" /></label
	>
	<label class="flex flex-col gap-1"
		><span class="text-sm font-semibold">Colour</span>
		<select class="field" name="colour">
			{#each Object.entries(TAG_COLOURS) as [stored, { name, letter }] (stored)}<option value={stored}
					>{letter} {name}</option
				>{/each}
		</select></label
	>
	<button class="act">Create it</button>
</form>

{#if data.tags.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">There are no tags yet.</p>
{:else}
	<table class="sheet">
		<thead
			><tr
				><th>Tag</th><th class="number">Messages here</th><th class="number">Size</th><th>Colour</th><th
					>Rename or merge</th
				><th><span class="sr-only">Hide or remove</span></th></tr
			></thead
		>
		<tbody>
			{#each shown as tag (tag.id)}
				<tr>
					<td style:padding-left="{10 + (tagNames(tag.name).length - 1) * 18}px"
						><a href={find(tag.name)} aria-label="Messages tagged {tag.name}"><TagMark {tag} /></a>{#if tag.hidden}
							<span class="text-ink-soft text-xs">hidden</span>{/if}</td
					>
					<td class="number">{showCount(tag.messages)}</td>
					<td class="number">{showBytes(tag.bytes)}</td>
					<td>
						<form method="post" action="?/colour" use:enhance>
							<input type="hidden" name="tag" value={tag.name} />
							<select
								class="field py-0! text-sm"
								name="colour"
								value={tag.colour}
								aria-label="Colour of {tag.name}"
								onchange={(event) => event.currentTarget.form?.requestSubmit()}
							>
								{#each Object.entries(TAG_COLOURS) as [stored, { name, letter }] (stored)}<option value={stored}
										>{letter} {name}</option
									>{/each}
							</select>
						</form>
					</td>
					<td>
						<form method="post" use:enhance class="flex gap-1.5">
							<input type="hidden" name="tag" value={tag.name} />
							<input
								class="field w-40 py-0! text-sm"
								name="to"
								aria-label="New name of {tag.name}, or the tag to merge it into"
								list="tag-names"
							/>
							<button class="quiet py-0! text-sm" formaction="?/rename">Rename</button>
							<button class="quiet py-0! text-sm" formaction="?/merge">Merge into</button>
						</form>
					</td>
					<td>
						<form method="post" use:enhance class="flex justify-end gap-1.5">
							<input type="hidden" name="tag" value={tag.name} />
							<button class="quiet py-0! text-sm" formaction={tag.hidden ? '?/show' : '?/hide'}
								>{tag.hidden ? 'Show' : 'Hide'}</button
							>
							<button class="quiet py-0! text-sm" formaction="?/remove" aria-label="Remove the tag {tag.name}"
								>Remove</button
							>
						</form>
					</td>
				</tr>
			{/each}
		</tbody>
	</table>
	<datalist id="tag-names"
		>{#each data.tags as { id, name } (id)}<option value={name}></option>{/each}</datalist
	>
	{#if hidden > 0}
		<label class="mt-2 flex items-center gap-1.5 text-sm"
			><input type="checkbox" bind:checked={withHidden} /> show the {showCount(hidden)} hidden</label
		>
	{/if}
{/if}
