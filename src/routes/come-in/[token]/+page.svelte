<script lang="ts">
	import EntryCard from '$lib/components/forms/EntryCard.svelte';
	import PasswordField from '$lib/components/forms/PasswordField.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { enhance } from '$lib/enhance.ts';

	let { data, form } = $props();
</script>

{#if data.refused}
	<EntryCard title="This link does not open">
		<p>{data.refused}</p>
		<p class="mt-3"><a class="lead" href="/sign-in">Sign in</a></p>
	</EntryCard>
{:else}
	<EntryCard title={data.person ? `Welcome, ${data.person.name}` : 'The first administrator'}>
		<p class="mb-4">
			{#if data.person}
				Choose a password. From then on you sign in as <b>{data.person.address}</b>.
			{:else}
				Nobody signs in here yet. You manage the mailboxes, and give others access.
			{/if}
		</p>
		<Refused message={form?.message} />
		<form method="post" use:enhance class="flex flex-col gap-4">
			{#if data.person}
				<input type="hidden" name="username" autocomplete="username" value={data.person.address} />
			{:else}
				<label class="flex flex-col gap-1"
					>Your name, as it stands in the ledger
					<input class="field" name="name" autocomplete="name" required maxlength="200" /></label
				>
				<label class="flex flex-col gap-1"
					>E-mail address
					<input class="field" name="address" autocomplete="username" required maxlength="200" /></label
				>
			{/if}
			<PasswordField label="Password" isNew />
			<button class="act self-start">Set the password and sign in</button>
		</form>
	</EntryCard>
{/if}
