<script lang="ts">
	import { enhance } from '$lib/enhance.ts';
	import PeriodField from '$lib/components/forms/PeriodField.svelte';
	import PolicySheet from '$lib/components/forms/PolicySheet.svelte';
	import Refused from '$lib/components/forms/Refused.svelte';
	import { periodOfFields, fieldsOfPeriod } from '$lib/retention-forms.ts';
	import { keepFields } from '$lib/keep-fields.ts';
	import { readPeriod } from '../../../core/retention/periods.ts';
	import { MONTH_NAMES } from '../../../core/calendar.ts';

	let { data, form } = $props();

	const answer = $derived(form as { message?: string; set?: boolean } | null);
	let isChanging = $derived(Boolean(answer));
	const policy = $derived(data.policy);
	// svelte-ignore state_referenced_locally
	let least = $state(fieldsOfPeriod(readPeriod(data.policy.settings.ownLeast)));
	// svelte-ignore state_referenced_locally
	let most = $state(fieldsOfPeriod(readPeriod(data.policy.settings.ownMost)));
</script>

<svelte:head><title>Retention policy – Kovrel</title></svelte:head>

<PolicySheet {policy} today={data.today} />

{#if data.person?.role === 'administrator'}<details class="mt-4 max-w-4xl print:hidden" bind:open={isChanging}>
		<summary class="cursor-pointer font-semibold">Change what the policy says for the office</summary>
		<Refused message={answer?.message} />
		<form
			method="post"
			action="?/set"
			use:enhance={keepFields}
			class="bg-sheet border-rule-strong mt-1 flex flex-wrap items-end gap-4 border p-3 text-sm"
		>
			<label class="flex flex-col gap-1"
				>Who decides on retention
				<input class="field w-72" name="owner" maxlength="300" value={policy.settings.owner} /></label
			>
			<label class="flex flex-col gap-1"
				>The financial year begins in
				<select class="field" name="firstMonth" value={String(policy.settings.firstMonth)}
					>{#each MONTH_NAMES as month, at (month)}<option value={String(at + 1)}>{month}</option>{/each}</select
				></label
			>
			<label class="flex flex-col gap-1"
				>A certificate keeps of each message
				<select class="field" name="certificateKeeps" value={policy.settings.certificateKeeps}>
					<option value="hash">dates, size and hash alone</option>
					<option value="subject">sender and subject as well</option>
				</select></label
			>
			<input type="hidden" name="ownLeast" value={periodOfFields(least)} />
			<input type="hidden" name="ownMost" value={periodOfFields(most)} />
			<PeriodField label="Single messages: at least" bind:period={least} />
			<PeriodField label="at most" bind:period={most} />
			<button class="act">Set</button>
			{#if answer?.set}<p role="status">Saved.</p>{/if}
		</form>
	</details>{/if}
