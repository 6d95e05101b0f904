<script lang="ts">
	import { enhance } from '$app/forms';
	import BarChart from '$lib/components/BarChart.svelte';
	import Refused from '$lib/components/Refused.svelte';
	import { showBytes, showCount, showMessages, showShare } from '../../../../core/weigh/units.ts';

	let { data, form } = $props();

	const weighing = $derived(data.weighing);
	const mailbox = $derived(weighing.mailbox);
	const base = $derived(`/m/${mailbox.id}`);
	const years = $derived(weighing.years.filter(({ key }) => key !== ''));
	const undated = $derived(weighing.years.find(({ key }) => key === ''));
	const heaviestYear = $derived(Math.max(1, ...weighing.years.map(({ bytes }) => bytes)));
	const heaviestOrganisation = $derived(Math.max(1, ...weighing.organisations.map(({ bytes }) => bytes)));
	const SHOWN = 12;
	let allOrganisations = $state(false);
	const organisations = $derived(allOrganisations ? weighing.organisations : weighing.organisations.slice(0, SHOWN));
	const share = (bytes: number, whole: number) => `${Math.max(0.5, (100 * bytes) / whole)}%`;
	let changingQuota = $state(false);
</script>

<svelte:head><title>Weigh {mailbox.name} – Kovrel</title></svelte:head>

<div class="mb-4 flex items-start gap-6">
	<div class="flex-1">
		<h1>{mailbox.name} weighs {showBytes(mailbox.bytes)}</h1>
		<p class="mt-1">
			{showMessages(mailbox.messages)}{#if mailbox.binned.messages > 0}, {showCount(mailbox.binned.messages)} of them in the
				bin{/if};
			{showCount(mailbox.archived.messages)} more in the archive ({showBytes(mailbox.archived.bytes)}, outside the
			quota).
		</p>
		<p class="mt-1" data-testid="advice">
			{weighing.advice.sentence}
			{#if weighing.advice.best?.kind === 'archive-old'}
				<a class="lead font-semibold whitespace-nowrap" href="{base}/clear?before={weighing.advice.cutoff}"
					>Draft that docket</a
				>
			{/if}
		</p>
	</div>
	<div class="text-sm">
		{#if changingQuota}
			<form
				method="post"
				action="?/quota"
				class="flex items-end gap-2"
				use:enhance={() =>
					({ update, result }) => {
						if (result.type === 'success') changingQuota = false;
						return update({ reset: false });
					}}
			>
				<label class="flex flex-col gap-1"
					><span>Quota (empty: none)</span>
					<!-- svelte-ignore a11y_autofocus -->
					<input
						class="field w-28"
						name="quota"
						value={mailbox.quotaBytes === undefined ? '' : showBytes(mailbox.quotaBytes)}
						autofocus
					/>
				</label>
				<button class="act">Set</button>
				<button class="quiet" type="button" onclick={() => (changingQuota = false)}>Leave</button>
			</form>
		{:else}
			<button class="quiet" type="button" onclick={() => (changingQuota = true)}
				>{mailbox.quotaBytes === undefined ? 'Set a quota' : 'Change the quota'}</button
			>
		{/if}
	</div>
</div>
<Refused message={form?.message} />

{#if mailbox.messages === 0 && mailbox.archived.messages === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		Nothing is here yet. Mail gets here from a file: <a class="lead" href="/mailboxes">bring in mail</a>.
	</p>
{:else}
	<div class="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-5">
		<div class="flex flex-col gap-4">
			<section aria-labelledby="by-folder">
				<h2 id="by-folder" class="mb-1.5">By folder</h2>
				<table class="sheet">
					<thead
						><tr
							><th>Folder</th><th class="number">Messages</th><th class="number">Size</th><th class="w-24">Share</th
							></tr
						></thead
					>
					<tbody>
						{#each weighing.folders as folder (folder.id)}
							<tr>
								<td style:padding-left="{10 + folder.depth * 16}px">
									{#if folder.role === 'trash'}
										<a class="lead" href="{base}/archive?where=binned" title="What is in the bin">{folder.name}</a>
									{:else}
										<a
											class="lead"
											href="{base}/clear?folder={encodeURIComponent(folder.path)}"
											title="Archive what is old in {folder.path}">{folder.name}</a
										>
									{/if}
								</td>
								<td class="number">{showCount(folder.messagesBelow)}</td>
								<td class="number">{showBytes(folder.bytesBelow)}</td>
								<td
									><div
										class="h-2.5"
										style:background="var(--bar)"
										style:width={share(folder.bytesBelow, mailbox.bytes)}
										title={showShare(folder.bytesBelow, mailbox.bytes)}
									></div></td
								>
							</tr>
						{/each}
					</tbody>
				</table>
				<p class="text-ink-soft mt-1 text-xs">Subfolders included. Live and binned mail counts against the quota.</p>
			</section>
			<section aria-labelledby="by-organisation">
				<h2 id="by-organisation" class="mb-1.5">By organisation</h2>
				<table class="sheet">
					<thead
						><tr
							><th>Organisation</th><th class="number">Messages</th><th class="number">Size</th><th class="w-20"
								>Share</th
							></tr
						></thead
					>
					<tbody>
						{#each organisations as { key, messages, bytes } (key)}
							<tr>
								<td
									>{#if key}<a
											class="lead"
											href="{base}/archive?q={encodeURIComponent(`from:"${key}"`)}"
											title="Its messages">{key}</a
										>{:else}no address{/if}</td
								>
								<td class="number">{showCount(messages)}</td>
								<td class="number">{showBytes(bytes)}</td>
								<td
									><div
										class="h-2.5"
										style:background="var(--bar)"
										style:width={share(bytes, heaviestOrganisation)}
									></div></td
								>
							</tr>
						{/each}
					</tbody>
				</table>
				{#if weighing.organisations.length > SHOWN}
					<button class="quiet mt-2 text-sm" type="button" onclick={() => (allOrganisations = !allOrganisations)}>
						{allOrganisations ? `Show the heaviest ${SHOWN}` : `Show all ${showCount(weighing.organisations.length)}`}
					</button>
				{/if}
			</section>
		</div>
		<div class="flex flex-col gap-5">
			<section aria-labelledby="by-year">
				<h2 id="by-year" class="mb-1.5">By year received</h2>
				<BarChart
					labels={years.map(({ key }) => key)}
					values={years.map(({ bytes }) => bytes)}
					label="Size by year received; the table below has the numbers"
					show={showBytes}
				/>
				<table class="sheet mt-2">
					<thead
						><tr
							><th>Year</th><th class="number">Messages</th><th class="number">Size</th><th class="w-20">Share</th></tr
						></thead
					>
					<tbody>
						{#each years as { key, messages, bytes } (key)}
							<tr>
								<td
									><a
										class="lead"
										href="{base}/clear?before={Number(key) + 1}-01-01"
										title="Archive {key} and everything before">{key}</a
									></td
								>
								<td class="number">{showCount(messages)}</td>
								<td class="number">{showBytes(bytes)}</td>
								<td><div class="h-2.5" style:background="var(--bar)" style:width={share(bytes, heaviestYear)}></div></td
								>
							</tr>
						{/each}
						{#if undated}
							<tr
								><td
									><a
										class="lead"
										href="{base}/archive?q={encodeURIComponent(`before:1980 or since:${weighing.impossibleFrom}`)}"
										title="Messages whose date cannot be true">Date in doubt</a
									></td
								><td class="number">{showCount(undated.messages)}</td><td class="number">{showBytes(undated.bytes)}</td
								><td></td></tr
							>
						{/if}
					</tbody>
				</table>
			</section>
		</div>
	</div>
{/if}
