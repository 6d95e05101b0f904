<script lang="ts">
	import type { PeriodFields } from '$lib/retention-forms.ts';

	let { label, period = $bindable() }: { label: string; period: PeriodFields } = $props();
</script>

<fieldset class="flex flex-col gap-1 text-sm">
	<legend class="contents"><span>{label}</span></legend>
	<span class="flex gap-1">
		<input
			class="field w-20"
			type="number"
			min="1"
			max="9999"
			bind:value={period.count}
			aria-label="{label}: how many"
		/>
		<select class="field" bind:value={period.unit} aria-label="{label}: of what">
			<option value="years">years</option>
			<option value="months">months</option>
			<option value="days">days</option>
		</select>
	</span>
</fieldset>
