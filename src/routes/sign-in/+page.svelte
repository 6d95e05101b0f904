<script lang="ts">
	import EntryCard from '$lib/components/forms/EntryCard.svelte';
	import PasswordField from '$lib/components/forms/PasswordField.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { enhance } from '$lib/enhance.ts';

	let { data, form } = $props();
	let address = $state('');
</script>

<EntryCard title="Sign in">
	{#if data.isFirstStart}
		<p>
			Nobody signs in here yet. The terminal in which Kovrel was started shows an address: whoever opens it first
			becomes the administrator. It opens once, within a day; starting Kovrel again makes a new one.
		</p>
	{:else}
		<Refused message={form?.message} />
		<form method="post" use:enhance class="flex flex-col gap-4">
			<label class="flex flex-col gap-1"
				>Address
				<!-- svelte-ignore a11y_autofocus -->
				<input
					class="field"
					name="address"
					autocomplete="username"
					required
					maxlength="200"
					autofocus
					bind:value={address}
				/></label
			>
			<PasswordField label="Password" />
			<button class="act self-start">Sign in</button>
		</form>
		<p class="text-ink-soft mt-4 text-sm">
			If you forgot your password or lost the device with your codes, ask an administrator for a new sign-in link.
		</p>
		{#if data.accounts.length > 0}
			<section class="border-rule mt-5 border-t pt-3 text-sm" aria-label="Accounts of the demo">
				<p class="mb-1"><b>This is a demo.</b> Its accounts are no secret, and exist in it alone:</p>
				<ul class="flex flex-col gap-1">
					{#each data.accounts as account (account.address)}
						<li>
							{account.name}, {account.role}:
							<button class="lead" type="button" onclick={() => (address = account.address)}>{account.address}</button>,
							password <code>{account.password}</code>
						</li>
					{/each}
				</ul>
			</section>
		{/if}
	{/if}
</EntryCard>
