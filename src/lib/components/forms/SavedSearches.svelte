<script lang="ts">
	import { enhance } from '$lib/enhance.ts';

	interface Props {
		saved: readonly { id: number; name: string; question: string }[];
		/** The page that opens them. */
		address: string;
	}
	let { saved, address }: Props = $props();
</script>

{#each saved as { id, name, question } (id)}
	<form method="post" action="?/forget" use:enhance class="border-rule flex items-center gap-2 border-b py-1">
		<input type="hidden" name="saved" value={id} />
		<a class="lead flex-1 truncate" href="{address}?{question}">{name}</a>
		<button class="quiet px-2 py-0 text-sm">Forget</button>
	</form>
{:else}<p class="text-ink-soft text-sm">None yet. Beside a search that you need often, select “Save this search”.</p>
{/each}
