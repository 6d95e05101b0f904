<script lang="ts">
	import '../app.css';
	import FindFrame from '$lib/components/frames/FindFrame.svelte';
	import OfficeFrame from '$lib/components/frames/OfficeFrame.svelte';
	import { mode } from '$lib/mode.svelte.ts';
	import { loadScriptFacesWhenNeeded } from '$lib/theme/script-faces.ts';

	let { data, children } = $props();

	$effect(() => {
		mode.read();
		// from here on clicks are handled
		document.documentElement.dataset.ready = '';
		return loadScriptFacesWhenNeeded(document.body);
	});
</script>

{#if !data.person}
	{@render children()}
{:else if data.person.role === 'colleague'}
	<FindFrame person={data.person} answers={data.answers}>{@render children()}</FindFrame>
{:else}
	<OfficeFrame {data}>{@render children()}</OfficeFrame>
{/if}
