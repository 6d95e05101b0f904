<script lang="ts">
	import ChevronUpIcon from '@lucide/svelte/icons/chevron-up';
	import type { Snippet } from 'svelte';
	import { page } from '$app/state';

	/* The work with its docket beside it; where there is no room for both, the docket is a sheet from below. */
	interface Props {
		children: Snippet;
		slip: Snippet;
		/** What the sheet is about, for the bar that opens it. */
		summary: string;
	}
	let { children, slip, summary }: Props = $props();

	let isOpen = $state(false);
	// another page, another work
	const pathname = $derived(page.url.pathname);
	$effect(() => {
		void pathname;
		isOpen = false;
	});
</script>

<svelte:window
	onkeydown={(event) => {
		if (event.key === 'Escape') isOpen = false;
	}}
/>

<div class="with-slip">
	{@render children()}
	<div class="place" class:open={isOpen}>
		<button
			class="bar"
			type="button"
			aria-expanded={isOpen}
			aria-controls="docket-sheet"
			onclick={() => (isOpen = !isOpen)}
			>{summary}<span class="turn"><ChevronUpIcon size={18} aria-hidden="true" /></span></button
		>
		<div class="sheet-below" id="docket-sheet">{@render slip()}</div>
	</div>
</div>

<style>
	.with-slip {
		display: grid;
		grid-template-columns: minmax(0, 1fr) 19rem;
		gap: 1.25rem;
		padding: 1rem 1.25rem;
	}
	.place {
		display: contents;
	}
	.bar {
		display: none;
	}
	.sheet-below {
		display: contents;
	}
	@media (width < 64rem) {
		.with-slip {
			display: block;
			padding: 0.75rem 0.75rem 4.5rem;
		}
		.place {
			display: block;
			position: fixed;
			inset: auto 0 0 0;
			z-index: 30;
			background: var(--docket);
			border-top: 3px dashed var(--rule-strong);
			box-shadow: 0 -4px 16px rgb(0 0 0 / 0.18);
		}
		.bar {
			display: flex;
			align-items: center;
			justify-content: space-between;
			gap: 0.75rem;
			width: 100%;
			min-height: 3rem;
			padding: 0.25rem 1rem;
			font-weight: 600;
			text-align: left;
		}
		.turn {
			transition: transform 0.15s;
		}
		.open .turn {
			transform: rotate(180deg);
		}
		.sheet-below {
			display: none;
		}
		.open .sheet-below {
			display: block;
			max-height: 75vh;
			overflow-y: auto;
		}
		.sheet-below :global(.slip) {
			position: static;
			max-height: none;
			border: 0;
		}
	}
	@media print {
		.with-slip {
			display: block;
		}
		.place {
			display: none;
		}
	}
</style>
