<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import CertificateSheet from '$lib/components/docket/CertificateSheet.svelte';
	import DocketFolders from '$lib/components/docket/DocketFolders.svelte';
	import LineMessages from '$lib/components/docket/LineMessages.svelte';
	import WithSlip from '$lib/components/frames/WithSlip.svelte';
	import { docketSummary } from '$lib/docket-summary.ts';
	import DocketSlip from '$lib/components/docket/DocketSlip.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showMoment } from '$lib/moments.ts';

	let { data, form } = $props();

	const mailbox = $derived(data.mailboxes.find(({ id }) => id === data.docket.mailboxId));
</script>

<svelte:head><title>Docket {data.docket.id} – Kovrel</title></svelte:head>

<WithSlip summary={docketSummary(data.docket)}>
	<main class="min-w-0">
		<h1 class="mb-1">Docket {data.docket.id} for {data.docket.mailbox}</h1>
		<p class="text-ink-soft mb-3">Drafted {showMoment(data.docket.draftedAt)} by {data.docket.draftedBy}.</p>
		<div class="mb-4 flex flex-wrap items-end gap-3">
			<form method="post" action="?/name" use:enhance class="flex flex-wrap items-end gap-2">
				<label class="flex flex-col gap-1"
					><span class="text-sm font-semibold">Name of the docket</span>
					<input class="field w-80" name="name" value={data.docket.name} maxlength="200" /></label
				>
				<button class="quiet">Save the name</button>
			</form>
			{#if data.docket.state === 'drafted'}
				<form method="post" action="?/recount" use:enhance><button class="quiet">Count again</button></form>
			{/if}
		</div>
		<Refused message={(form as { message?: string } | null)?.message} />
		{#if data.docket.changed}<p class="wrong mb-3" role="status">
				{data.docket.changed} Count it again before it is approved or carried out.
			</p>{/if}
		{#if data.certificate}
			<CertificateSheet certificate={data.certificate} heading="h2" />
		{:else}
			<DocketFolders docket={data.docket} />
		{/if}
		<section class="mt-4" aria-label="Message by message">
			{#each data.docket.lines as line (line.id)}
				{@const of = data.docket.lists.find(({ lineId }) => lineId === line.id)}
				{#if of}
					<details class="mt-2">
						<summary class="cursor-pointer"><b>Line {line.position}, list by list:</b> {line.sentence}</summary>
						<ul class="mt-1 list-inside list-disc">
							{#each of.names as name, at (at)}<li>{name}</li>{/each}
						</ul>
					</details>
				{:else}
					<LineMessages docketId={data.docket.id} {line} />
				{/if}
			{/each}
		</section>
	</main>
	{#snippet slip()}
		{#if mailbox}<DocketSlip
				docket={data.docket}
				certificate={data.certificate}
				server={data.docket.server}
				{mailbox}
				isAlone
			/>{/if}
	{/snippet}
</WithSlip>
