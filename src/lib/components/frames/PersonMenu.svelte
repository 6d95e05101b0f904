<script lang="ts">
	import LogOutIcon from '@lucide/svelte/icons/log-out';
	import MoonIcon from '@lucide/svelte/icons/moon';
	import SunIcon from '@lucide/svelte/icons/sun';
	import type { Role } from '../../../core/access/roles.ts';
	import HelpButton from '$lib/components/frames/HelpButton.svelte';
	import { mode } from '$lib/mode.svelte.ts';

	/* The person signed in, with links to their account and to sign out. */
	let { person }: { person: { name: string; role: Role } } = $props();
</script>

<HelpButton />
<button
	class="quiet"
	type="button"
	onclick={() => mode.toggle()}
	aria-label="Switch to the {mode.current === 'dark' ? 'light' : 'dark'} theme"
>
	{#if mode.current === 'dark'}<SunIcon size={16} aria-hidden="true" />{:else}<MoonIcon
			size={16}
			aria-hidden="true"
		/>{/if}
</button>
<a class="lead text-sm whitespace-nowrap" href="/account" title="Your account: password, codes, sessions"
	>{person.name}{#if person.role !== 'colleague'}<span class="text-ink-soft max-md:sr-only">, {person.role}</span
		>{/if}</a
>
<form method="post" action="/sign-out">
	<button class="quiet text-sm"
		><LogOutIcon size={14} aria-hidden="true" /> <span class="max-sm:sr-only">Sign out</span></button
	>
</form>
