<script lang="ts">
	import '../app.css';
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

{#if data.Frame}
	<data.Frame {data}>{@render children()}</data.Frame>
{:else}
	{@render children()}
{/if}
