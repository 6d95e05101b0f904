<script lang="ts">
	import type { Layout } from '../../../core/archive/layout.ts';

	let { paths = $bindable(), divide = $bindable() }: { paths: Layout['paths']; divide: Layout['divide'] } = $props();
</script>

<label class="flex flex-col gap-1">
	<span class="text-sm font-semibold">In the archive</span>
	<select class="field" name="paths" bind:value={paths}>
		<option value="keep">the same folders</option>
		<option value="flat">no folder paths</option>
	</select>
</label>
<label class="flex flex-col gap-1">
	<span class="text-sm font-semibold">divided by</span>
	<select class="field" name="divide" bind:value={divide}>
		<option value="none">nothing</option>
		<option value="year">year</option>
		<option value="month">month</option>
		<option value="financial-year">financial year</option>
	</select>
</label>
