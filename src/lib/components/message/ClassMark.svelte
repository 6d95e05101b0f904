<script lang="ts">
	import { page } from '$app/state';
	import { UNCLASSED } from '../../../core/retention/classes.ts';

	/* A class by its word, or by its number as on an item. */
	let { of, series }: { of: string | number; series?: string | null } = $props();
	const known = $derived(page.data.classes?.find(({ id, word }) => of === id || of === word));
</script>

<span class="standing" class:strong={known?.isProtected} class:plain={known?.word === UNCLASSED}
	><b>{known?.letter ?? ''}</b>
	{known?.name ?? of}{#if series}, {series}{/if}</span
>

<style>
	.standing {
		font-size: 0.78rem;
		white-space: nowrap;
		padding: 0 5px;
		border: 1px solid var(--rule-strong);
		border-radius: 2px;
	}
	.plain {
		border-color: transparent;
		color: var(--ink-soft);
	}
	.strong {
		border-color: var(--stamp);
	}
</style>
