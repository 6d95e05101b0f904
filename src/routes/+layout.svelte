<script lang="ts">
	import '../app.css';
	import FindFrame from '$lib/components/frames/FindFrame.svelte';
	import OfficeFrame from '$lib/components/frames/OfficeFrame.svelte';
	import { mode } from '$lib/mode.svelte.ts';

	let { data, children } = $props();

	$effect(() => {
		mode.read();
		// after the page itself: most mail needs none of them
		void import('$lib/theme/scripts.css');
		// from here on clicks are handled
		document.documentElement.dataset.ready = '';
	});
</script>

{#if !data.person}
	{@render children()}
{:else if data.person.role === 'colleague'}
	<FindFrame person={data.person} answers={data.answers}>{@render children()}</FindFrame>
{:else}
	<OfficeFrame {data}>{@render children()}</OfficeFrame>
{/if}
