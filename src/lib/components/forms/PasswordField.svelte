<script lang="ts">
	/*
	 * A password field: shown on demand, open to password managers and pasting (OWASP ASVS 4.0.3, 2.1.11 and 2.1.12).
	 */
	let { label, name = 'password', isNew = false }: { label: string; name?: string; isNew?: boolean } = $props();
	let shown = $state(false);
	const id = $props.id();
</script>

<div class="flex flex-col gap-1">
	<label for={id}>{label}</label>
	<div class="flex gap-2">
		<input
			{id}
			class="field min-w-0 flex-1"
			{name}
			type={shown ? 'text' : 'password'}
			autocomplete={isNew ? 'new-password' : 'current-password'}
			required
			maxlength="500"
		/>
		<button class="quiet text-sm" type="button" aria-pressed={shown} onclick={() => (shown = !shown)}
			>{shown ? 'Hide' : 'Show'}</button
		>
	</div>
	{#if isNew}<p class="text-ink-soft text-sm">
			At least 12 characters; a few words do well. No rules for digits or signs.
		</p>{/if}
</div>
