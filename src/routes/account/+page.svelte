<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import { page } from '$app/state';
	import PasswordField from '$lib/components/forms/PasswordField.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { keepFields } from '$lib/keep-fields.ts';
	import { showMoment } from '$lib/moments.ts';
	import { MOST_AT_ONCE } from '../../core/docket/decisions.ts';

	let { data, form } = $props();

	const answer = $derived(
		form as {
			message?: string;
			passwordSet?: boolean;
			recoveryCodes?: string[];
			codesDropped?: boolean;
			ended?: boolean;
			atOnceSet?: boolean;
		} | null
	);
	/* It stays in this browser. */
	const asFile = (codes: readonly string[]) =>
		`data:text/plain;charset=utf-8,${encodeURIComponent(
			[
				`Recovery codes of ${data.account.name} for Kovrel at ${page.url.origin}, each good for once:`,
				...codes,
				''
			].join('\r\n')
		)}`;
	const moment = (seconds: number) => showMoment(new Date(seconds * 1000).toISOString());
	/* The recognisable part of a browser's name for itself. */
	const deviceName = (said: string) =>
		[/\(([^;)]+)/.exec(said)?.[1], /(Firefox|Edg|Chrome|Safari)\/[\d.]+/.exec(said)?.[0]?.split('.')[0]]
			.filter(Boolean)
			.join(', ') || said;
</script>

<svelte:head><title>Your account – Kovrel</title></svelte:head>

<main class="max-w-4xl px-3 sm:px-5 py-4">
	<h1>Your account</h1>
	<p class="mt-1 mb-4">{data.account.name}, {data.account.role}; you sign in as <b>{data.account.address}</b>.</p>
	<Refused message={answer?.message} />
	{#if data.wanted && !answer?.recoveryCodes}
		<p class="wrong mb-3" role="status">
			Administrators use one-time codes here. Set them up below; everything else opens afterwards.
		</p>
	{/if}

	{#if data.account.role === 'administrator'}
		<section class="bg-sheet border-rule-strong mb-4 border p-4" aria-label="Decisions at once">
			<h2>Decisions at once</h2>
			<form method="post" action="?/atOnce" use:enhance={keepFields} class="mt-1 flex flex-wrap items-center gap-2">
				<label class="flex flex-wrap items-center gap-2"
					>Carry out what can be taken back at once on up to <input
						class="field w-24"
						type="number"
						name="atOnce"
						min="0"
						max={MOST_AT_ONCE}
						value={data.account.atOnce}
						required
					/> messages</label
				>
				<button class="quiet">Save</button>
				{#if answer?.atOnceSet}<span role="status">Saved.</span>{/if}
			</form>
			<p class="text-ink-soft mt-1 text-sm">
				Decisions on more messages, and all that destroy, go on the docket first. With 0, every decision does.
			</p>
		</section>
	{/if}

	<section class="bg-sheet border-rule-strong mb-4 border p-4" aria-label="One-time codes">
		<h2>One-time codes</h2>
		{#if answer?.recoveryCodes}
			<p class="mt-1" role="status">
				<b>Codes are in use.</b> Keep these recovery codes where you keep papers: each lets you in once without your authenticator,
				and they are shown only now.
			</p>
			<ul class="my-2 grid max-w-md grid-cols-2 gap-1 font-mono" data-testid="recovery-codes">
				{#each answer.recoveryCodes as code (code)}<li>{code}</li>{/each}
			</ul>
			<p class="flex gap-2">
				<a class="quiet" href={asFile(answer.recoveryCodes)} download="Kovrel recovery codes.txt"
					>Save them as a text file</a
				>
				<button class="quiet" type="button" onclick={() => print()}>Print this page</button>
				{#if data.wanted}<a class="act" href="/sign-in" data-sveltekit-reload>Sign in with a code now</a>{/if}
			</p>
		{:else if data.account.usesCodes && !data.offer}
			<p class="mt-1">
				You sign in with your password and a code from your authenticator. {data.account.recoveryCodesLeft} recovery codes
				are left. <a class="lead" href="/account?codes">Replace the authenticator</a>
			</p>
			{#if !data.account.codesDemanded}
				<form method="post" action="?/removeCodes" use:enhance class="mt-2 flex max-w-md items-end gap-2">
					<div class="flex-1"><PasswordField label="Your password, to turn off codes" /></div>
					<button class="quiet">Turn off codes</button>
				</form>
			{/if}
		{:else if data.offer}
			<div class="mt-2 flex flex-wrap gap-5">
				<img src={data.offer.picture} alt="QR code with the secret below, for an authenticator" class="h-44 w-44" />
				<form method="post" action="?/codes" use:enhance class="flex flex-col gap-3">
					<p class="max-w-md">
						Scan this with an authenticator on your telephone (any that knows RFC 6238), or type the secret into it:
						<code class="break-all">{data.offer.secret}</code>
					</p>
					<input type="hidden" name="secret" value={data.offer.secret} />
					<label class="flex flex-col gap-1"
						>The six digits shown now
						<input class="field w-40" name="code" inputmode="numeric" autocomplete="one-time-code" required /></label
					>
					{#if data.account.usesCodes}<PasswordField label="Your password, to replace the codes in use" />{/if}
					<button class="act self-start"
						>{data.account.usesCodes ? 'Use this authenticator from now on' : 'Use codes from now on'}</button
					>
				</form>
			</div>
		{:else}
			<p class="mt-1">
				{answer?.codesDropped ? 'Codes are no longer asked for. ' : ''}A code from your telephone beside the password
				keeps others out who have got hold of it.
				<a class="lead" href="/account?codes">Set up one-time codes</a>
			</p>
		{/if}
	</section>

	{#if !data.wanted}
		<section class="bg-sheet border-rule-strong mb-4 border p-4" aria-label="Password">
			<h2>Password</h2>
			{#if answer?.passwordSet}<p role="status" class="mt-1">
					Your password was changed. Your other sessions ended.
				</p>{/if}
			<form method="post" action="?/password" use:enhance class="mt-2 grid max-w-2xl gap-4 sm:grid-cols-2">
				<PasswordField label="Current password" name="before" />
				<PasswordField label="New password" isNew />
				<button class="quiet justify-self-start">Change the password</button>
			</form>
		</section>

		<section class="bg-sheet border-rule-strong border p-4" aria-label="Sessions">
			<h2 class="mb-1">Where you are signed in</h2>
			<table class="sheet">
				<thead
					><tr><th>Browser</th><th>Since</th><th>Last used</th><th><span class="sr-only">End the session</span></th></tr
					></thead
				>
				<tbody>
					{#each data.account.sessions as session (session.id)}
						<tr>
							<td title={session.device}
								>{deviceName(session.device)}{#if session.id === data.sessionId}<b>, this one</b>{/if}</td
							>
							<td class="whitespace-nowrap">{moment(session.beganAt)}</td>
							<td class="whitespace-nowrap">{moment(session.seenAt)}</td>
							<td class="text-right">
								{#if session.id !== data.sessionId}
									<form method="post" action="?/end" use:enhance>
										<input type="hidden" name="id" value={session.id} />
										<button class="quiet text-sm">End the session</button>
									</form>
								{/if}
							</td>
						</tr>
					{/each}
				</tbody>
			</table>
			{#if data.account.sessions.length > 1}
				<form method="post" action="?/end" use:enhance class="mt-2">
					<button class="quiet">End all other sessions</button>
				</form>
			{/if}
			<p class="text-ink-soft mt-2 text-sm">A session ends by itself after 12 hours without use, and after a week.</p>
		</section>
	{/if}
</main>
