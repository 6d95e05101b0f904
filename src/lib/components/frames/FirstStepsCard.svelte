<script lang="ts">
	import { browser } from '$app/environment';
	import XIcon from '@lucide/svelte/icons/x';
	import type { FirstSteps } from '$lib/server/process/index.ts';

	/* Leads back to the first steps until one small docket was carried out and taken back; it can be closed for good. */
	let { steps }: { steps: FirstSteps } = $props();

	const KEPT_AS = 'kovrel-first-steps';
	let isClosed = $derived(!browser || localStorage.getItem(KEPT_AS) === 'closed');
	const isDone = $derived(steps.hasCarriedOut && steps.hasTakenBack);
	function close() {
		localStorage.setItem(KEPT_AS, 'closed');
		isClosed = true;
	}
</script>

{#if !isClosed && !isDone}
	<p class="bg-docket border-rule-strong mb-3 flex items-baseline gap-2 border px-3 py-2 text-sm">
		<span class="mr-auto"
			>{steps.hasCarriedOut
				? 'Your docket can be taken back: try it.'
				: 'New here? Draft one small docket from the table, carry it out, and take it back.'}
			<a class="lead" href="/begin">First steps</a></span
		>
		<button class="quiet px-1!" type="button" onclick={close} aria-label="Close this note" title="Close"
			><XIcon size={14} aria-hidden="true" /></button
		>
	</p>
{/if}
