<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import FetchingFields from '$lib/components/forms/FetchingFields.svelte';
	import JobProgress from '$lib/components/frames/JobProgress.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { jobs } from '$lib/jobs.svelte.ts';
	import { showMoment } from '$lib/moments.ts';
	import type { ServerTest } from '$lib/server/sources/index.ts';
	import { USUAL_FETCHING } from '../../../core/sources/fetching.ts';
	import { leftOnServer, usualPort, type TlsMode } from '../../../core/sources/server.ts';
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
	const fetching = $derived(jobs.running.filter(({ useCase }) => useCase === 'followSources'));

	let tls = $state<TlsMode>('implicit');
	let auth = $state<'password' | 'token'>('password');
	let endpoint = $state('');
	let asks = $state<number>();
	let changes = $state<number>();
	let fetchingOf = $state<number>();
	let isBusy = $state(false);
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
		<p class="bg-sheet border-rule-strong mb-4 max-w-4xl border p-5">No mailbox is connected with a server yet.</p>
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
									<div><button class="act text-sm">Save</button></div>
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

	<form
		method="post"
		action="?/connect"
		class="bg-sheet border-rule-strong flex max-w-4xl flex-col gap-3 border p-4"
		aria-label="Connect a mailbox"
		use:enhance={() => {
			isBusy = true;
			return async ({ update, result }) => {
				isBusy = false;
				// what was typed stays, but for what is connected
				await update({ reset: result.type === 'success' && 'connected' in (result.data ?? {}) });
			};
		}}
	>
		<h2>Connect a mailbox</h2>
		<div class="flex flex-wrap items-end gap-4">
			<label class="flex flex-col gap-1"
				><span class="text-sm font-semibold">Mailbox here</span>
				<input
					class="field w-56"
					name="mailbox"
					list="mailboxes"
					maxlength="200"
					placeholder="a new or an existing one"
				/>
				<datalist id="mailboxes"
					>{#each data.mailboxes as { id, name } (id)}<option value={name}></option>{/each}</datalist
				>
			</label>
			<label class="flex flex-col gap-1"
				><span class="text-sm font-semibold">Server</span>
				<input class="field w-56" name="host" required maxlength="253" placeholder="mail.skerryline.example" /></label
			>
			<label class="flex flex-col gap-1"
				><span class="text-sm font-semibold">Encryption</span>
				<select class="field" name="tls" bind:value={tls}>
					<option value="implicit">from the beginning (TLS)</option>
					<option value="starttls">after a command (STARTTLS)</option>
					<option value="none">none, on this machine alone</option>
				</select></label
			>
			<label class="flex flex-col gap-1"
				><span class="text-sm font-semibold">Port</span>
				<input
					class="field w-24"
					name="port"
					type="number"
					min="1"
					max="65535"
					placeholder={String(usualPort(tls))}
				/></label
			>
		</div>
		<div class="flex flex-wrap items-end gap-4">
			<label class="flex flex-col gap-1"
				><span class="text-sm font-semibold">User there</span>
				<input class="field w-64" name="user" required maxlength="320" autocomplete="off" /></label
			>
			<label class="flex flex-col gap-1"
				><span class="text-sm font-semibold">Signs in with</span>
				<select class="field" name="auth" bind:value={auth}>
					<option value="password">a password</option>
					<option value="token">a bearer token (OAuth 2)</option>
				</select></label
			>
			<label class="flex flex-col gap-1"
				><span class="text-sm font-semibold">{auth === 'token' ? 'Token' : 'Password'}</span>
				<input
					class="field w-64"
					name="secret"
					type="password"
					required={auth === 'password' || endpoint.trim() === ''}
					autocomplete="off"
				/></label
			>
		</div>
		{#if auth === 'token'}
			<fieldset class="border-rule border px-3 pb-3">
				<legend class="px-1 text-sm font-semibold">Renewal of the token, if you have a refresh token</legend>
				<div class="flex flex-wrap items-end gap-4 text-sm">
					<label class="flex flex-col gap-1"
						>Token endpoint
						<input
							class="field w-80"
							name="endpoint"
							type="url"
							maxlength="2000"
							placeholder="https://sign-in.skerryline.example/token"
							bind:value={endpoint}
						/></label
					>
					<label class="flex flex-col gap-1"
						>Refresh token
						<input class="field w-56" name="refreshToken" type="password" autocomplete="off" /></label
					>
					<label class="flex flex-col gap-1"
						>Client ID
						<input class="field w-48" name="clientId" maxlength="1000" autocomplete="off" /></label
					>
					<label class="flex flex-col gap-1"
						>Client secret, if it has one
						<input class="field w-48" name="clientSecret" type="password" autocomplete="off" /></label
					>
				</div>
				<p class="text-ink-soft mt-2 text-sm">
					Without a token, Kovrel gets the first one from the endpoint when you connect. Without an endpoint, give a new
					token each time one has ended.
				</p>
			</fieldset>
		{/if}
		<details>
			<summary class="cursor-pointer text-sm font-semibold"
				>A shared mailbox, folders to leave out, speed, and a certificate of your own</summary
			>
			<label class="mt-2 flex flex-col gap-1 text-sm"
				>Folder there that is this mailbox, if the account sees several mailboxes (empty: its own folders)
				<input class="field w-80" name="root" maxlength="1000" placeholder="Shared/office" /></label
			>
			<div class="mt-2"><FetchingFields fetching={USUAL_FETCHING} /></div>
			<div class="mt-2 flex flex-wrap gap-4">
				<label class="flex flex-col gap-1 text-sm"
					>Folders to leave out, one a line, with their subfolders
					<textarea class="field h-28 w-72" name="leftOut"></textarea></label
				>
				<label class="flex flex-col gap-1 text-sm"
					>Certificate trusted for this server (PEM)
					<textarea class="field h-28 w-96 font-mono text-xs" name="certificate" spellcheck="false"></textarea></label
				>
			</div>
		</details>
		{#if answer?.at === 'connect'}<Refused message={answer.message} />{/if}
		{#if answer?.tested && !answer.connected}
			<div class="bg-docket px-3 py-2 text-sm" role="status" data-testid="tested">
				<p>{answer.tested.sentences.join(' ')}</p>
				<ul class="mt-1 list-disc pl-5">
					{#each answer.tested.extensions as extension (extension.name)}<li>{extension.means}</li>{/each}
				</ul>
			</div>
		{/if}
		<div class="flex items-center gap-3">
			<button class="act" disabled={isBusy}>Connect and fetch</button>
			<button class="quiet" formaction="?/test" disabled={isBusy}>Test</button>
			{#if isBusy}<span role="status" class="text-sm">Asking the server …</span>{/if}
		</div>
		<p class="text-ink-soft text-sm">
			The password is encrypted with a key in the data folder, which no backup holds: after a backup is restored
			elsewhere, connect again.
		</p>
	</form>
</main>
