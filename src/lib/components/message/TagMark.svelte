<script lang="ts">
	import { TAG_COLOURS, type TagColour } from '../../../core/tags/colours.ts';

	let { tag }: { tag: { name: string; colour: TagColour } } = $props();

	const look = $derived(TAG_COLOURS[tag.colour] ?? TAG_COLOURS.slate);
</script>

<!-- the letter stands for the colour -->
<span class="tag" style:background={look.ground} style:color={look.ink}
	><span class="letter" aria-hidden="true">{look.letter}</span>{tag.name}</span
>

<style>
	.tag {
		display: inline-flex;
		align-items: baseline;
		gap: 4px;
		max-width: 14rem;
		padding: 0 7px 0 4px;
		border-radius: 2px 8px 8px 2px;
		font-size: 0.78rem;
		line-height: 1.35;
		white-space: nowrap;
		overflow: hidden;
		text-overflow: ellipsis;
	}
	.letter {
		font-weight: 700;
		font-size: 0.7rem;
		border-right: 1px solid currentcolor;
		padding-right: 4px;
	}
</style>
