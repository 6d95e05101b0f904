<script lang="ts">
	import DateField from '$lib/components/forms/DateField.svelte';
	import type { SubmitFunction } from '@sveltejs/kit';
	import { enhance } from '$lib/enhance.ts';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { showMoment } from '$lib/moments.ts';
	import { type Role, ROLES } from '../../core/access/roles.ts';
	import { showDate } from '../../core/calendar.ts';

	let { data, form } = $props();

	const answer = $derived(
		form as { message?: string; set?: string; link?: { person: string; address: string } } | null
	);
	const view = $derived(data.view);
	const isAdministrator = $derived(data.person?.role === 'administrator');
	const present = $derived(view.people.filter(({ endedAt }) => endedAt === null));
	const isSelf = ({ name }: { name: string }) => name === data.person?.name;
	/* Arrow keys go through the roles of a closed field: none is set before it is confirmed. */
	let wishedRoles = $state<Record<number, Role>>({});
	const roles = Object.keys(ROLES) as Role[];
	let group = $state('');
	const members = $derived(new Set(view.groups.find(({ name }) => name === group)?.members.map(({ id }) => id)));

	const stay: SubmitFunction =
		() =>
		({ update }) =>
			update({ reset: false });
</script>

<svelte:head><title>People – Kovrel</title></svelte:head>

<h1>People</h1>
<p class="mt-1 mb-2 max-w-4xl">
	Who may sign in, and what each may find and restore. A colleague sees only what is granted here, and their own
	mailbox; an auditor sees schedule, ledger and certificates, and no message.
</p>
<Refused message={answer?.message} />
{#if answer?.link}
	<p class="border-stamp bg-stamp-soft mb-3 border-l-4 px-3 py-2" role="status">
		Give this address to {answer.link.person}: it opens once, within a day, and is shown only now.<br />
		<code class="break-all" data-testid="link">{answer.link.address}</code>
	</p>
{:else if answer?.set}
	<p class="border-stamp bg-stamp-soft mb-3 border-l-4 px-3 py-2" role="status">{answer.set}</p>
{/if}

<table class="sheet">
	<thead
		><tr
			><th>Name</th><th>Signs in as</th><th>Role</th><th>Codes</th><th>Groups</th><th>Own mailbox</th><th>Last seen</th
			>{#if isAdministrator}<th><span class="sr-only">Change</span></th>{/if}</tr
		></thead
	>
	<tbody>
		{#each view.people as person (person.id)}
			<tr class:text-ink-soft={person.endedAt !== null}>
				<td class="name font-semibold">{person.name}</td>
				<td class="name">{person.address}</td>
				<td class="whitespace-nowrap">
					{#if person.endedAt}left{:else if isAdministrator && !isSelf(person)}
						{@const wished = wishedRoles[person.id] ?? person.role}
						<form method="post" action="?/role" class="flex flex-wrap gap-2" use:enhance={stay}>
							<input type="hidden" name="person" value={person.name} />
							<select
								class="field py-0 text-sm"
								name="role"
								aria-label="Role of {person.name}"
								value={wished}
								onchange={(event) => (wishedRoles[person.id] = event.currentTarget.value as Role)}
							>
								{#each roles as role (role)}<option value={role}>{role}</option>{/each}
							</select>
							{#if wished !== person.role}<button class="act px-2 py-0 text-sm">Change to {wished}</button>{/if}
						</form>
					{:else}{person.role}{/if}
				</td>
				<td>{person.hasCode ? 'yes' : 'no'}</td>
				<td class="name">{person.groups.join(', ')}</td>
				<td class="name">{person.owns.map(({ name }) => name).join(', ')}</td>
				<td class="whitespace-nowrap"
					>{person.seenAt
						? showMoment(new Date(person.seenAt * 1000).toISOString())
						: person.hasPassword
							? 'not signed in now'
							: 'not yet'}</td
				>
				{#if isAdministrator}
					<td>
						<span class="flex justify-end gap-2">
							{#if isSelf(person)}<a class="lead text-sm" href="/account">Your password and codes</a>
							{:else if !person.endedAt}
								<form method="post" action="?/link" use:enhance={stay}>
									<input type="hidden" name="person" value={person.name} />
									<button
										class="quiet px-2 py-0 text-sm"
										title="{person.name} is signed out, and sets a new password with the link; the former one and the codes end"
										>New link</button
									>
								</form>
							{/if}
							{#if !isSelf(person)}
								<form method="post" action="?/end" use:enhance={stay}>
									<input type="hidden" name="person" value={person.name} />
									<input type="hidden" name="ended" value={person.endedAt ? 'false' : 'true'} />
									<button class="quiet px-2 py-0 text-sm">{person.endedAt ? 'Let in again' : 'End access'}</button>
								</form>
							{/if}
						</span>
					</td>
				{/if}
			</tr>
		{:else}<tr><td colspan="8">Nobody signs in yet.</td></tr>{/each}
	</tbody>
</table>
{#if isAdministrator}
	<form method="post" action="?/add" use:enhance class="mt-2 flex flex-wrap items-end gap-3 text-sm">
		<label class="flex flex-col gap-1">Name<input class="field w-52" name="name" required maxlength="200" /></label>
		<label class="flex flex-col gap-1"
			>E-mail address for signing in<input class="field w-60" name="address" required maxlength="200" /></label
		>
		<label class="flex flex-col gap-1"
			>Role <select class="field" name="role"
				>{#each [...roles].reverse() as role (role)}<option value={role}>{role}: {ROLES[role]}</option>{/each}</select
			></label
		>
		<button class="act">Add a person</button>
	</form>
{/if}

<h2 class="mt-6 mb-1">Access</h2>
{#if view.grants.length === 0}
	<p class="bg-sheet border-rule-strong border p-4">
		No access is granted yet: colleagues search only their own mailboxes. Grant a mailbox or a folder to a person or a
		group.
	</p>
{:else}
	<table class="sheet">
		<thead
			><tr
				><th>To</th><th>Where</th><th>May</th><th>Until</th><th>Granted</th>{#if isAdministrator}<th
						><span class="sr-only">Revoke</span></th
					>{/if}</tr
			></thead
		>
		<tbody>
			{#each view.grants as grant (grant.id)}
				<tr class:text-ink-soft={grant.isOver}>
					<td class="name"><b>{grant.to}</b>{grant.groupId === null ? '' : ' (group)'}</td>
					<td class="name">{grant.mailbox}{grant.folder ? `, ${grant.folder} and below` : ''}</td>
					<td>{[grant.mayFind && 'find', grant.mayRestore && 'restore'].filter(Boolean).join(' and ')}</td>
					<td class="whitespace-nowrap"
						>{grant.until ? showDate(grant.until) : 'no day set'}{grant.isOver ? ', over' : ''}</td
					>
					<td class="name">{showMoment(grant.givenAt)} by {grant.givenBy}</td>
					{#if isAdministrator}<td class="text-right">
							<form method="post" action="?/revoke" use:enhance={stay}>
								<input type="hidden" name="grant" value={grant.id} />
								<button class="quiet px-2 py-0 text-sm" aria-label="Revoke the access of {grant.to}">Revoke</button>
							</form>
						</td>{/if}
				</tr>
			{/each}
		</tbody>
	</table>
{/if}
{#if isAdministrator}
	<form method="post" action="?/grant" use:enhance class="mt-2 flex flex-wrap items-end gap-3 text-sm">
		<label class="flex flex-col gap-1"
			>To <select class="field" name="to" required
				>{#each view.groups as { id, name } (id)}<option value={name}>{name} (group)</option
					>{/each}{#each present.filter(({ role }) => role === 'colleague') as { id, name } (id)}<option>{name}</option
					>{/each}</select
			></label
		>
		<label class="flex flex-col gap-1"
			>Mailbox <select class="field" name="mailbox" required
				>{#each data.mailboxes as { id, name } (id)}<option>{name}</option>{/each}</select
			></label
		>
		<label class="flex flex-col gap-1"
			>Folder, with those below (empty: all)<input class="field w-52" name="folder" maxlength="1000" /></label
		>
		<label class="flex items-center gap-1.5 pb-1.5"><input type="checkbox" name="find" value="1" checked /> find</label>
		<label class="flex items-center gap-1.5 pb-1.5"><input type="checkbox" name="restore" value="1" /> restore</label>
		<label class="flex flex-col gap-1">Until (empty: no day set)<DateField name="until" /></label>
		<button class="act">Grant</button>
	</form>

	<div class="mt-6 grid gap-5 *:min-w-0 lg:grid-cols-3">
		<section aria-label="Groups">
			<h2 class="mb-1">Groups</h2>
			<form
				method="post"
				action="?/group"
				use:enhance={stay}
				class="bg-sheet border-rule-strong flex flex-col gap-2 border p-3"
			>
				<label class="flex flex-col gap-1 text-sm"
					>Group, a new one or one of these
					<input class="field" name="group" list="groups" required maxlength="200" bind:value={group} /></label
				>
				<datalist id="groups"
					>{#each view.groups as { id, name } (id)}<option value={name}></option>{/each}</datalist
				>
				<fieldset class="max-h-40 overflow-auto text-sm">
					<legend class="sr-only">Who is in it</legend>
					{#each present as { id, name } (id)}<label class="flex items-center gap-2 py-1"
							><input type="checkbox" name="member" value={name} checked={members.has(id)} /> {name}</label
						>{/each}
				</fieldset>
				<div class="flex gap-2">
					<button class="quiet text-sm">Set the group</button>
					{#if view.groups.some(({ name }) => name === group)}<button class="quiet text-sm" name="remove" value="1"
							>Remove it</button
						>{/if}
				</div>
			</form>
		</section>
		<section aria-label="Owners">
			<h2 class="mb-1">Mailbox owners</h2>
			{#if view.owners.length > 0}
				<ul class="mb-2 text-sm">
					{#each view.owners as { mailbox, owner, tidies } (mailbox)}
						<li>{mailbox}: <b>{owner}</b>{tidies ? ', may tidy it' : ''}</li>
					{/each}
				</ul>
			{/if}
			<form
				method="post"
				action="?/own"
				use:enhance={stay}
				class="bg-sheet border-rule-strong flex flex-col gap-2 border p-3 text-sm"
			>
				<p>The owner finds and restores all of it, and sees which mail is due and who opened its messages.</p>
				<label class="flex flex-col gap-1"
					>Mailbox <select class="field" name="mailbox" required
						>{#each data.mailboxes as { id, name } (id)}<option>{name}</option>{/each}</select
					></label
				>
				<label class="flex flex-col gap-1"
					>Owner <select class="field" name="owner"
						><option value="">nobody</option>{#each present as { id, name } (id)}<option>{name}</option>{/each}</select
					></label
				>
				<label class="flex items-start gap-1.5"
					><input class="mt-1" type="checkbox" name="tidies" value="1" />
					<span
						>may tidy it: archive, delete, move and tag its mail. Held mail is not deleted, and nothing is destroyed.</span
					></label
				>
				<button class="quiet self-start">Set owner</button>
			</form>
		</section>
		<section aria-label="Sign-in rules">
			<h2 class="mb-1">Sign-in rules</h2>
			<form
				method="post"
				action="?/access"
				use:enhance={stay}
				class="bg-sheet border-rule-strong flex flex-col gap-2 border p-3 text-sm"
			>
				<label class="flex gap-2"
					><input type="checkbox" name="codes" value="1" checked={view.codesDemanded} /> Administrators use one-time codes
					beside their password</label
				>
				<label class="flex gap-2"
					><input type="checkbox" name="approval" value="1" checked={view.approvalDemanded} /> What a person destroys is approved
					by a second administrator, who did not prepare it</label
				>
				<button class="quiet self-start">Set</button>
			</form>
		</section>
	</div>
{/if}
