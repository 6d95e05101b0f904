<script lang="ts">
	import DateField from './DateField.svelte';

	/* A cutoff date, typed or by an age. */
	let { before = $bindable(), presets }: { before: string; presets: readonly { name: string; cutoff: string }[] } =
		$props();
</script>

<div class="flex flex-wrap items-end gap-4">
	<label class="flex flex-col gap-1">
		<span class="text-sm font-semibold">Received before</span>
		<DateField name="before" bind:value={before} required about="past" />
	</label>
	<div class="flex flex-col gap-1" role="group" aria-label="Older than">
		<span class="text-sm">or older than</span>
		<div class="flex flex-wrap gap-1">
			{#each presets as { name, cutoff } (name)}
				<button
					class="quiet px-2! text-sm"
					type="button"
					aria-pressed={before === cutoff}
					onclick={() => (before = cutoff)}>{name}</button
				>
			{/each}
		</div>
	</div>
</div>
