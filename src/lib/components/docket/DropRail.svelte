<script lang="ts">
	import type { DecisionOptions } from '../../../core/docket/decision.ts';
	import type { Decision } from '../../../core/docket/decisions.ts';
	import { showMessages } from '../../../core/weigh/units.ts';

	interface Props {
		/** How many messages are dragged; undefined: none, and the rail is hidden. */
		messages: number | undefined;
		folders: readonly string[];
		tags: readonly string[];
		/** Whether letting go decides at once, not on the docket. */
		isAtOnce?: boolean;
		onLetGo: (decision: Decision, options: DecisionOptions) => void;
	}
	let { messages, folders, tags, isAtOnce = false, onLetGo }: Props = $props();

	let over = $state<{ decision: 'move' | 'tag'; name: string }>();

	const promise = $derived.by(() => {
		if (messages === undefined || !over) return 'Let go over a folder or a tag.';
		const them = showMessages(messages);
		const does = over.decision === 'move' ? `move ${them} to ${over.name}` : `put the tag “${over.name}” on ${them}`;
		const stays = over.decision === 'move' ? '' : ` ${messages === 1 ? 'It stays' : 'They stay'} in place.`;
		return isAtOnce ? `Let go to ${does}.${stays}` : `Let go to put this on the docket: ${does}.${stays}`;
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
	<aside class="drop-rail" aria-label="Where to drop">
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
