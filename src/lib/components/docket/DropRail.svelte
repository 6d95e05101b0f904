<script lang="ts">
	import type { DecisionOptions } from '../../../core/docket/decision.ts';
	import type { Decision } from '../../../core/docket/decisions.ts';
	import { showMessages } from '../../../core/weigh/units.ts';

	interface Props {
		/** How many messages are dragged; undefined: none, and the rail is hidden. */
		messages: number | undefined;
		folders: readonly string[];
		tags: readonly string[];
		onLetGo: (decision: Decision, options: DecisionOptions) => void;
	}
	let { messages, folders, tags, onLetGo }: Props = $props();

	let over = $state<{ decision: 'move' | 'tag'; name: string }>();

	const promise = $derived.by(() => {
		if (messages === undefined || !over) return 'Let go over a folder or a tag.';
		return over.decision === 'move'
			? `Let go: put on the docket that ${showMessages(messages)} move to ${over.name}.`
			: `Let go: put on the docket that ${showMessages(messages)} get the tag “${over.name}”. They stay where they are.`;
	});

	function letGo(event: DragEvent) {
		event.preventDefault();
		if (over) onLetGo(over.decision, over.decision === 'move' ? { folder: over.name } : { tag: over.name });
		over = undefined;
	}
</script>

{#snippet target(decision: 'move' | 'tag', name: string)}
	<li
		class="drop-target"
		class:over={over?.decision === decision && over.name === name}
		ondragover={(event) => {
			event.preventDefault();
			over = { decision, name };
		}}
		ondragleave={() => (over = undefined)}
		ondrop={letGo}
	>
		{name}
	</li>
{/snippet}

{#if messages !== undefined}
	<aside class="drop-rail" aria-label="Where to let go">
		<!-- of a fixed height, so that a target does not move away under the pointer -->
		<p class="h-24 shrink-0 overflow-hidden font-semibold" role="status">{promise}</p>
		{#if tags.length > 0}
			<h3>Tag only</h3>
			<ul>
				{#each tags as name (name)}{@render target('tag', name)}{/each}
			</ul>
		{/if}
		{#if folders.length > 0}
			<h3>Move to</h3>
			<ul>
				{#each folders as name (name)}{@render target('move', name)}{/each}
			</ul>
		{/if}
	</aside>
{/if}
