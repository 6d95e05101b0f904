<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import ConnectForm from '$lib/components/forms/ConnectForm.svelte';
	import FetchingFields from '$lib/components/forms/FetchingFields.svelte';
	import JobProgress from '$lib/components/frames/JobProgress.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { jobs } from '$lib/jobs.svelte.ts';
	import { showMoment } from '$lib/moments.ts';
	import type { KnownServer, ServerTest } from '$lib/server/sources/index.ts';
	import { leftOnServer } from '../../../core/sources/server.ts';
	import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';

	let { data, form } = $props();

	const answer = $derived(
		form as {
			message?: string;
			at?: string;
			tested?: ServerTest;
			connected?: string;
			disconnected?: string;
			writing?: {
				mailbox: string;
				writes: boolean;
				archiveOn: 'kovrel' | 'server';
				earlier: number;
				carriesEarlier: boolean;
			};
			retried?: { mailbox: string; messages: number };
			fetching?: { mailbox: string };
		} | null
	);
	const former = $derived(data.servers.filter(({ disconnectedAt }) => disconnectedAt !== null));
	let connectForm = $state<ReturnType<typeof ConnectForm>>();
	function connectAgain(server: KnownServer | undefined) {
		if (server) connectForm?.fill(server);
	}
	const fetching = $derived(jobs.running.filter(({ useCase }) => useCase === 'followSources'));

	let asks = $state<number>();
	let changes = $state<number>();
	let fetchingOf = $state<number>();
</script>

<svelte:head><title>Live mailboxes – Kovrel</title></svelte:head>

<main class="px-3 sm:px-5 py-4">
	<p class="text-sm"><a class="lead" href="/mailboxes">Import mail</a></p>
	<h1>Live mailboxes</h1>
	<p class="mt-1 mb-4 max-w-3xl">
		Kovrel fetches mail from a mail server (IMAP) and follows it: new mail, flags, folders, moved and removed mail. At
		first it only reads. If you allow it to write, it carries out your decisions on the server.
	</p>
	{#if answer?.at !== 'connect'}<Refused message={answer?.message} />{/if}
	{#if answer?.connected}<p class="bg-stamp-soft border-stamp mb-3 max-w-4xl border-l-4 px-3 py-1.5" role="status">
			{answer.connected} is connected.{fetching.length > 0 ? ' Its mail is being fetched.' : ''}
			{answer.tested?.sentences.join(' ')}
		</p>{/if}
	{#if answer?.disconnected}<p class="bg-stamp-soft border-stamp mb-3 max-w-4xl border-l-4 px-3 py-1.5" role="status">
			{answer.disconnected}
		</p>{/if}
	{#if answer?.writing}
		{@const { mailbox, writes, archiveOn, earlier, carriesEarlier } = answer.writing}
		<div class="bg-stamp-soft border-stamp mb-3 max-w-4xl border-l-4 px-3 py-1.5" role="status" data-testid="writing">
			<p>
				{#if writes}Kovrel carries out on the server what is decided in {mailbox}.{#if carriesEarlier}
						That includes earlier decisions.{/if}{:else}Kovrel only reads the server of {mailbox}.{/if}
			</p>
			{#if earlier > 0}
				<form method="post" action="?/write" use:enhance class="mt-1 flex flex-wrap items-center gap-3">
					<input type="hidden" name="mailbox" value={mailbox} />
					<input type="hidden" name="writes" value="true" />
					<input type="hidden" name="archiveOn" value={archiveOn} />
					<input type="hidden" name="earlier" value="true" />
					<span
						>{showMessages(earlier)}
						{earlier === 1 ? 'was' : 'were'} archived, deleted or moved here earlier, and {earlier === 1
							? 'lies'
							: 'lie'} on the server as before.</span
					>
					<button class="quiet text-sm">Carry that out there as well: {showMessages(earlier)}</button>
				</form>
			{/if}
		</div>
	{/if}
	{#if answer?.retried}<p class="bg-stamp-soft border-stamp mb-3 max-w-4xl border-l-4 px-3 py-1.5" role="status">
			Kovrel tries {showMessages(answer.retried.messages)} of {answer.retried.mailbox} again.
		</p>{/if}
	{#if answer?.fetching}<p class="bg-stamp-soft border-stamp mb-3 max-w-4xl border-l-4 px-3 py-1.5" role="status">
			Saved. The next check of {answer.fetching.mailbox} fetches as you said.
		</p>{/if}
	{#if data.sources.length === 0}
		<p class="bg-sheet border-rule-strong mb-4 max-w-4xl border p-5">
			No mailbox is connected with a server{former.length === 0 ? ' yet' : ''}.
		</p>
	{:else}
		<table class="sheet mb-5">
			<thead
				><tr
					><th>Mailbox</th><th>Server</th><th class="number">Followed</th><th>Quota there</th><th>Access</th><th
						>Last check</th
					><th><span class="sr-only">Decide</span></th></tr
				></thead
			>
			<tbody>
				{#each data.sources as source (source.id)}
					<tr>
						<td><a class="lead font-semibold" href="/m/{source.mailboxId}/weigh">{source.mailbox}</a></td>
						<td class="text-sm"
							>{source.user}<span class="text-ink-soft block"
								>{source.host}, port {source.port}{source.tls === 'none' ? ', without encryption' : ''}</span
							></td
						>
						<td class="number whitespace-nowrap"
							>{showMessages(source.messages)}<span class="text-ink-soft block text-sm">{showBytes(source.bytes)}</span
							>{#if source.ahead.messages > 0}<span class="block text-sm" data-testid="ahead"
									>{showCount(source.ahead.messages)} to come<span class="text-ink-soft block"
										>{showBytes(source.ahead.bytes)}</span
									></span
								>{/if}</td
						>
						<td class="max-w-80 text-sm">{source.quotaSentence ?? 'The server does not say.'}</td>
						<td class="max-w-56 text-sm"
							>{#if source.writes}<b>Reads and writes</b><span class="block"
									>Archived mail goes {source.archiveOn === 'kovrel'
										? 'into Kovrel'
										: "into the server's archive folder"}.</span
								>{#if source.waiting > 0}<span class="block" data-testid="waiting"
										>{showMessages(source.waiting)} {source.waiting === 1 ? 'waits' : 'wait'} for it.</span
									>{/if}{#if source.refused > 0}<b class="text-wax block">{source.trouble}</b>
									<form method="post" action="?/retry" use:enhance>
										<input type="hidden" name="mailbox" value={source.mailbox} />
										<button class="lead">Try {showMessages(source.refused)} again</button>
									</form>{/if}{:else}<span class="whitespace-nowrap">Read-only</span>{#if source.waiting > 0}<span
										class="block"
										data-testid="waiting"
										>{showMessages(source.waiting)}
										{source.waiting === 1 ? 'waits' : 'wait'} until you allow writing.</span
									>{/if}{/if}</td
						>
						<td class="max-w-72 text-sm"
							>{#if source.error}<b class="text-wax">{source.error}</b>{#if source.passedAt}<span class="block"
										>It was up to date on {showMoment(source.passedAt)}.</span
									>{/if}{:else if source.passedAt}{showMoment(source.passedAt)}{:else}Not fetched yet{/if}</td
						>
						<td class="text-sm">
							<div class="flex flex-wrap justify-end gap-2">
								<form method="post" action="?/fetch" use:enhance>
									<input type="hidden" name="mailbox" value={source.mailbox} />
									<button class="quiet text-sm" disabled={fetching.length > 0}>Fetch now</button>
								</form>
								<button
									class="quiet text-sm"
									type="button"
									aria-expanded={changes === source.id}
									onclick={() => (changes = changes === source.id ? undefined : source.id)}>Access …</button
								>
								<button
									class="quiet text-sm"
									type="button"
									aria-expanded={fetchingOf === source.id}
									onclick={() => (fetchingOf = fetchingOf === source.id ? undefined : source.id)}
									>Fetch settings …</button
								>
								{#if asks === source.id}
									{@const left = leftOnServer(source)}
									<form method="post" action="?/disconnect" use:enhance>
										<input type="hidden" name="mailbox" value={source.mailbox} />
										{#if left.length > 0}<p class="text-wax mb-1 max-w-72" role="status">{left.join(' ')}</p>
											<input type="hidden" name="unfinished" value="true" />{/if}
										<div class="flex flex-wrap justify-end gap-2">
											<button class="act text-sm"
												>Disconnect {source.mailbox}{left.length > 0 ? ' unfinished' : ''}</button
											>
											<button class="quiet text-sm" type="button" onclick={() => (asks = undefined)}>Cancel</button>
										</div>
									</form>
								{:else}<button class="quiet text-sm" type="button" onclick={() => (asks = source.id)}
										>Disconnect …</button
									>{/if}
							</div>
						</td>
					</tr>
					{#if fetchingOf === source.id}
						<tr>
							<td colspan="7">
								<form
									method="post"
									action="?/fetching"
									class="flex flex-col gap-2 py-2"
									aria-label="Fetch settings of {source.mailbox}"
									use:enhance={() =>
										async ({ update, result }) => {
											if (result.type === 'success') fetchingOf = undefined;
											await update({ reset: false });
										}}
								>
									<input type="hidden" name="mailbox" value={source.mailbox} />
									<FetchingFields fetching={source} />
									<div><button class="act text-sm">Save</button></div>
								</form>
							</td>
						</tr>
					{/if}
					{#if changes === source.id}
						<tr>
							<td colspan="7">
								<form
									method="post"
									action="?/write"
									class="flex flex-col gap-2 py-2"
									aria-label="Access to {source.mailbox}"
									use:enhance={() =>
										async ({ update }) => {
											changes = undefined;
											await update({ reset: false });
										}}
								>
									<input type="hidden" name="mailbox" value={source.mailbox} />
									<label class="flex items-center gap-2"
										><input type="checkbox" name="writes" value="true" checked={source.writes === 1} />
										Carry out decisions on {source.host}</label
									>
									<label class="flex flex-wrap items-center gap-2"
										>Archived mail goes
										<select class="field" name="archiveOn" value={source.archiveOn}>
											<option value="kovrel">into Kovrel, and off the server: that frees its quota</option>
											<option value="server">into the server's archive folder: that frees nothing there</option>
										</select></label
									>
									<p class="text-ink-soft max-w-3xl text-sm">
										Before a message is removed from the server, its copy here is checked. Kovrel takes over what others
										changed there, and says so. Mail that is destroyed here is destroyed there as well; the server's own
										backups are not reached.
									</p>
									<div class="flex flex-wrap gap-3">
										<button class="act text-sm">Save</button>
										<button
											class="quiet text-sm"
											type="button"
											onclick={() => connectAgain(data.servers.find(({ id }) => id === source.id))}
											>Change server or password …</button
										>
									</div>
								</form>
							</td>
						</tr>
					{/if}
				{/each}
			</tbody>
		</table>
	{/if}
	<!-- below the table: its rows stay where they are when one ends -->
	{#each fetching as job (job.id)}<div class="mb-3 max-w-4xl"><JobProgress {job} /></div>{/each}

	{#each former as server (server.mailbox)}
		<p class="mb-3 flex max-w-4xl flex-wrap items-center gap-3">
			<span
				>{server.mailbox} was connected to {server.host} as {server.user}{server.disconnectedAt
					? ` until ${showMoment(server.disconnectedAt)}`
					: ''}.</span
			>
			<button class="quiet text-sm" type="button" onclick={() => connectAgain(server)}>Connect again …</button>
		</p>
	{/each}
	<ConnectForm bind:this={connectForm} mailboxes={data.mailboxes} servers={data.servers} {answer} />
</main>
