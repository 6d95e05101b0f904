<script lang="ts">
	/* Searches are incomplete while stored mail is read again: nobody has to think that something is gone. */
	let { isOn }: { isOn: boolean } = $props();
</script>

{#if isOn}
	<p class="bg-stamp-soft border-stamp mx-5 mt-3 border-l-4 px-3 py-1.5" role="status">
		After an update, Kovrel reads all stored mail again. Until that is done, searches find only a part of it. No mail is
		changed by it.
	</p>
{/if}
