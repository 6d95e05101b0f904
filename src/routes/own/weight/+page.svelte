<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import QuotaBar from '$lib/components/charts/QuotaBar.svelte';
	import ShareBar from '$lib/components/charts/ShareBar.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';

	let { data, form } = $props();

	const { mailbox, folders, rows } = $derived(data.weighing);
	const answer = $derived(form as { message?: string; periodSet?: boolean } | null);
	const heaviest = $derived(Math.max(1, ...rows.map(({ bytes }) => bytes)));
	const fullest = $derived(Math.max(1, ...folders.map(({ bytesBelow }) => bytesBelow)));
	const mail = (parts: Record<string, string>) =>
		`/own/mail?${new URLSearchParams({ mailbox: String(mailbox.id), ...parts }).toString()}`;
	const ORGANISATIONS = 12;
</script>

<svelte:head><title>Weight of {mailbox.name} – Kovrel</title></svelte:head>

<main class="px-3 sm:px-5 py-3">
	<h1 class="mb-2">Weight of {mailbox.name}</h1>
	<p class="mb-1">
		<b>{showBytes(mailbox.bytes)}</b>{mailbox.quotaBytes === undefined
			? ', without a quota'
			: ` of ${showBytes(mailbox.quotaBytes)}`}
	</p>
	<div class="max-w-2xl"><QuotaBar bytes={mailbox.bytes} quota={mailbox.quotaBytes} /></div>
	{#each data.weighing.warnings as warning (warning)}<p class="text-wax mt-1 font-semibold" data-testid="warning">
			{warning}
		</p>{/each}
	<p class="mt-1 mb-3">{data.weighing.advice}</p>
	<Refused message={answer?.message} />
	{#if answer?.periodSet}<p role="status" class="mb-2">The period is set.</p>{/if}
	<div class="grid gap-6 *:min-w-0 md:grid-cols-2">
		<section aria-label="Folders">
			<h2 class="mb-1">Folders</h2>
			<table class="sheet">
				<thead
					><tr
						><th>Folder</th><th class="number">Messages</th><th class="number">Size</th><th class="w-24">Share</th><th
							>Period</th
						></tr
					></thead
				>
				<tbody>
					{#each folders as folder (folder.id)}
						<tr>
							<td class="name" style:padding-left="{10 + folder.depth * 16}px"
								><a class="lead" href={mail({ folder: String(folder.id) })}>{folder.name}</a></td
							>
							<td class="number">{showCount(folder.messages)}</td>
							<td class="number">{showBytes(folder.bytes)}</td>
							<td><ShareBar bytes={folder.bytesBelow} whole={fullest} /></td>
							<td class="text-sm">
								<details>
									<summary class="cursor-pointer">Set …</summary>
									<form method="post" action="?/period" use:enhance class="mt-1 flex flex-col gap-1">
										<input type="hidden" name="folderId" value={folder.id} />
										<label
											>Due to be destroyed after <input
												class="field w-16 py-0!"
												type="number"
												name="years"
												min="1"
												max="100"
												required
												aria-label="Years for {folder.path}"
											/> years</label
										>
										<label>because <input class="field w-36 py-0!" name="because" maxlength="1000" required /></label>
										<button class="quiet self-start py-0! text-sm">Set for {showMessages(folder.messagesBelow)}</button>
									</form>
								</details>
							</td>
						</tr>
					{/each}
				</tbody>
			</table>
		</section>
		<section aria-label="Who writes">
			<h2 class="mb-1">Who writes</h2>
			<table class="sheet">
				<thead
					><tr
						><th>Organisation</th><th class="number">Messages</th><th class="number">Size</th><th class="w-24">Share</th
						></tr
					></thead
				>
				<tbody>
					{#each rows.slice(0, ORGANISATIONS) as row (row.key)}
						<tr>
							<td class="name"><a class="lead" href={mail({ q: `organisation:${row.label}` })}>{row.label}</a></td>
							<td class="number">{showCount(row.messages)}</td>
							<td class="number">{showBytes(row.bytes)}</td>
							<td><ShareBar bytes={row.bytes} whole={heaviest} /></td>
						</tr>
					{/each}
				</tbody>
			</table>
		</section>
	</div>
</main>
