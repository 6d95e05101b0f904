<script lang="ts">
	import EntryCard from '$lib/components/forms/EntryCard.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { enhance } from '$lib/enhance.ts';

	let { form } = $props();
</script>

<EntryCard title="One-time code">
	<Refused message={form?.message} />
	<form method="post" use:enhance class="flex flex-col gap-4">
		<label class="flex flex-col gap-1"
			>The six digits that your authenticator shows, or a recovery code
			<!-- svelte-ignore a11y_autofocus -->
			<input
				class="field text-lg tracking-widest"
				name="code"
				inputmode="text"
				autocomplete="one-time-code"
				required
				maxlength="40"
				autofocus
			/></label
		>
		<button class="act self-start">Continue</button>
	</form>
	<p class="mt-4 text-sm"><a class="lead" href="/sign-in">Start again</a></p>
</EntryCard>
