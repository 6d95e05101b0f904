<script lang="ts">
	import { CLASS_WORDS, type RecordClass } from '../../../core/retention/classes.ts';

	let { of, series }: { of: RecordClass; series?: string | null } = $props();
	const { letter, words } = $derived(CLASS_WORDS[of]);
</script>

<span class="standing" class:strong={of === 'record'} class:plain={of === 'transitory'}
	><b>{letter}</b>
	{words}{#if series}, {series}{/if}</span
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
