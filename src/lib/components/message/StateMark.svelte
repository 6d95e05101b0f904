<script lang="ts">
	let { state }: { state: string } = $props();

	// a letter and a word: colour never carries meaning alone
	const letters: Record<string, string> = { live: 'L', archived: 'A', binned: 'B' };
</script>

<span class="inline-flex items-center gap-1.5 whitespace-nowrap">
	<span
		class="border-rule-strong inline-block w-5 rounded-sm border text-center text-xs font-bold"
		class:bg-stamp-soft={state === 'archived'}
		class:bg-wax-soft={state === 'binned'}
		aria-hidden="true">{letters[state]}</span
	>{state}
</span>
