<script lang="ts">
	import PeriodField from '$lib/components/forms/PeriodField.svelte';
	import { termsOfFields, fieldsOfPeriod, type PeriodFields } from '$lib/retention-forms.ts';
	import { DISPOSITION_WORDS, TRIGGER_WORDS } from '../../../core/retention/sentences.ts';
	import { DISPOSITIONS, type Disposition, type Terms, TRIGGERS, type Trigger } from '../../../core/retention/terms.ts';

	interface Props {
		/** The initial terms. */
		from?: Terms | undefined;
		/** The selected terms, as one word; undefined if something is missing. */
		terms?: string | undefined;
		/** Only the terms that a single message can have. */
		triggers?: readonly Trigger[];
		dispositions?: readonly Disposition[];
	}
	let { from, terms = $bindable(), triggers = TRIGGERS, dispositions = DISPOSITIONS }: Props = $props();

	// the initial terms are read once: from then on the form holds them

	// svelte-ignore state_referenced_locally
	let trigger = $state<Trigger>(from?.trigger ?? 'received');
	// svelte-ignore state_referenced_locally
	let disposition = $state<Disposition | ''>(from?.disposition ?? '');
	// svelte-ignore state_referenced_locally
	let period = $state<PeriodFields>(fieldsOfPeriod(from?.period));
	// svelte-ignore state_referenced_locally
	let archiveAfter = $state<PeriodFields>(fieldsOfPeriod(from?.archiveAfter));

	$effect(() => {
		// the person selects the disposition: none is preset
		terms = disposition === '' ? undefined : termsOfFields(trigger, disposition, period, archiveAfter);
	});
</script>

<label class="flex flex-col gap-1 text-sm"
	>At the end
	<select class="field" bind:value={disposition} required>
		{#if disposition === ''}<option value="">select what happens</option>{/if}
		{#each dispositions as word (word)}<option value={word}>{DISPOSITION_WORDS[word]}</option>{/each}
	</select></label
>
{#if disposition === 'archive-destroy'}<PeriodField label="Archived after" bind:period={archiveAfter} />{/if}
{#if disposition !== 'keep'}
	<PeriodField label={disposition === 'archive-destroy' ? 'Destroyed after' : 'After'} bind:period />
	{#if triggers.length > 1}
		<label class="flex flex-col gap-1 text-sm"
			>Counted from
			<select class="field" bind:value={trigger}>
				{#each triggers as word (word)}<option value={word}>{TRIGGER_WORDS[word]}</option>{/each}
			</select></label
		>
	{/if}
{/if}
