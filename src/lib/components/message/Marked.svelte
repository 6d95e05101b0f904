<script lang="ts">
	import type { Stretch } from '../../../core/search/excerpt.ts';

	let { stretches }: { stretches: Stretch[] } = $props();
</script>

{#each stretches as { text, hit }, at (at)}{#if hit}<mark>{text}</mark>{:else}{text}{/if}{/each}
