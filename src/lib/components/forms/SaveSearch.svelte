<script lang="ts">
	import BookmarkIcon from '@lucide/svelte/icons/bookmark';
	import { enhance } from '$lib/enhance.ts';

	/** Saves the search of the page under a name. */
	let { question }: { question: string } = $props();
	const id = $props.id();
</script>

<form method="post" action="?/save" use:enhance class="flex items-center gap-1">
	<input type="hidden" name="question" value={question} />
	<label class="sr-only" for="{id}-name">Name for this search</label>
	<input
		id="{id}-name"
		class="field w-40 py-0.5 text-sm"
		name="name"
		maxlength="100"
		required
		placeholder="name for this search"
	/>
	<button class="quiet text-sm"><BookmarkIcon size={14} aria-hidden="true" /> Save this search</button>
</form>
