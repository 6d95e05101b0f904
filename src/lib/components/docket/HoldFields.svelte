<script lang="ts">
	import NameField from '$lib/components/docket/NameField.svelte';

	/** The hold to put messages under. */
	interface Hold {
		name: string;
		because?: string;
		from?: string;
	}
	interface Props {
		/** The holds in effect. */
		holds: readonly string[];
		/** The answer; undefined while something is missing. */
		hold: Hold | undefined;
	}
	let { holds, hold = $bindable() }: Props = $props();

	let name = $state('');
	let because = $state('');
	let from = $state('');
	const isKnown = $derived(holds.some((one) => one.toLowerCase() === name.trim().toLowerCase()));

	$effect(() => {
		const said = { name: name.trim(), because: because.trim(), from: from.trim() };
		if (isKnown) hold = { name: said.name };
		else hold = said.name && said.because && said.from ? said : undefined;
	});
</script>

<NameField label="Hold" bind:value={name} names={holds} longest={200} />
{#if name.trim() !== '' && !isKnown}
	<span class="text-ink-soft text-xs">a new hold</span>
	<label class="flex items-center gap-2 text-sm"
		>because <input class="field w-44" bind:value={because} required maxlength="1000" /></label
	>
	<label class="flex items-center gap-2 text-sm"
		>asked for by <input class="field w-36" bind:value={from} required maxlength="200" /></label
	>
{/if}
