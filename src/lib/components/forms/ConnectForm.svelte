<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import FetchingFields from '$lib/components/forms/FetchingFields.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import type { KnownServer, ServerTest } from '$lib/server/sources/index.ts';
	import { USUAL_FETCHING } from '../../../core/sources/fetching.ts';
	import { usualPort, type TlsMode } from '../../../core/sources/server.ts';

	interface Props {
		mailboxes: readonly { id: number; name: string }[];
		/** The servers to which mailboxes are, or were last, connected. */
		servers: readonly KnownServer[];
		answer: { message?: string; at?: string; tested?: ServerTest; connected?: string } | null;
	}
	let { mailboxes, servers, answer }: Props = $props();

	const nothing = () => ({
		...{ mailbox: '', host: '', user: '', root: '', leftOut: '', certificate: '' },
		port: undefined as number | undefined,
		tls: 'implicit' as TlsMode,
		auth: 'password' as 'password' | 'token',
		fetching: USUAL_FETCHING
	});
	let given = $state(nothing());
	/* Whether what stands here is all that is known of a server: an empty field is a wish then. */
	let isFilled = $state(false);
	let endpoint = $state('');
	let isMore = $state(false);
	let isBusy = $state(false);
	let form: HTMLFormElement;
	let secret: HTMLInputElement;

	function clear() {
		form.reset();
		given = nothing();
		isFilled = false;
		endpoint = '';
	}

	function take(server: KnownServer) {
		const { mailbox, host, user, root, port, tls, auth, fetchFirst, bytesASecond, connections } = server;
		const fetching = { fetchFirst, bytesASecond, connections };
		const leftOut = server.leftOut.join('\n');
		const certificate = server.certificate ?? '';
		given = { ...{ mailbox, host, user, root, port, tls, auth, fetching }, leftOut, certificate };
		isFilled = true;
		isMore = root !== '' || leftOut !== '' || certificate !== '';
	}

	/** Fills in all that is known of a server; only its password is asked for. */
	export function fill(server: KnownServer) {
		take(server);
		secret.focus();
	}

	function fillKnown() {
		const name = given.mailbox.trim().toLowerCase();
		const server = servers.find(({ mailbox }) => mailbox.toLowerCase() === name);
		if (server && (isFilled || (given.host === '' && given.user === ''))) take(server);
		else if (!server) isFilled = false;
	}
</script>

<form
	bind:this={form}
	method="post"
	action="?/connect"
	class="bg-sheet border-rule-strong flex max-w-4xl flex-col gap-3 border p-4"
	aria-label="Connect a mailbox"
	use:enhance={() => {
		isBusy = true;
		return async ({ update, result }) => {
			isBusy = false;
			// what was typed stays, but for what is connected
			await update({ reset: false });
			if (result.type === 'success' && 'connected' in (result.data ?? {})) clear();
		};
	}}
>
	<h2>Connect a mailbox</h2>
	<input type="hidden" name="isFilled" value={isFilled} />
	<div class="flex flex-wrap items-end gap-4">
		<label class="flex flex-col gap-1"
			><span class="text-sm font-semibold">Mailbox here</span>
			<input
				class="field w-56"
				name="mailbox"
				list="mailboxes"
				maxlength="200"
				placeholder="a new or an existing one"
				bind:value={given.mailbox}
				onchange={fillKnown}
			/>
			<datalist id="mailboxes"
				>{#each mailboxes as { id, name } (id)}<option value={name}></option>{/each}</datalist
			>
		</label>
		<label class="flex flex-col gap-1"
			><span class="text-sm font-semibold">Server</span>
			<input
				class="field w-56"
				name="host"
				required
				maxlength="253"
				placeholder="mail.skerryline.example"
				bind:value={given.host}
			/></label
		>
		<label class="flex flex-col gap-1"
			><span class="text-sm font-semibold">Encryption</span>
			<select class="field" name="tls" bind:value={given.tls}>
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
				placeholder={String(usualPort(given.tls))}
				bind:value={given.port}
			/></label
		>
	</div>
	<div class="flex flex-wrap items-end gap-4">
		<label class="flex flex-col gap-1"
			><span class="text-sm font-semibold">User there</span>
			<input
				class="field w-64"
				name="user"
				required
				maxlength="320"
				autocomplete="off"
				bind:value={given.user}
			/></label
		>
		<label class="flex flex-col gap-1"
			><span class="text-sm font-semibold">Signs in with</span>
			<select class="field" name="auth" bind:value={given.auth}>
				<option value="password">a password</option>
				<option value="token">a bearer token (OAuth 2)</option>
			</select></label
		>
		<label class="flex flex-col gap-1"
			><span class="text-sm font-semibold">{given.auth === 'token' ? 'Token' : 'Password'}</span>
			<input
				class="field w-64"
				name="secret"
				bind:this={secret}
				type="password"
				required={given.auth === 'password' || endpoint.trim() === ''}
				autocomplete="off"
			/></label
		>
	</div>
	{#if given.auth === 'token'}
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
	<details bind:open={isMore}>
		<summary class="cursor-pointer text-sm font-semibold"
			>A shared mailbox, folders to leave out, speed, and a certificate of your own</summary
		>
		<label class="mt-2 flex flex-col gap-1 text-sm"
			>Folder there that is this mailbox, if the account sees several mailboxes (empty: its own folders)
			<input
				class="field w-80"
				name="root"
				maxlength="1000"
				placeholder="Shared/office"
				bind:value={given.root}
			/></label
		>
		<div class="mt-2">
			{#key given.fetching}<FetchingFields fetching={given.fetching} />{/key}
		</div>
		<div class="mt-2 flex flex-wrap gap-4">
			<label class="flex flex-col gap-1 text-sm"
				>Folders to leave out, one a line, with their subfolders
				<textarea class="field h-28 w-72" name="leftOut" bind:value={given.leftOut}></textarea></label
			>
			<label class="flex flex-col gap-1 text-sm"
				>Certificate trusted for this server (PEM)
				<textarea
					class="field h-28 w-96 font-mono text-xs"
					name="certificate"
					spellcheck="false"
					bind:value={given.certificate}></textarea></label
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
