<script lang="ts">
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import StepNav from '$lib/components/frames/StepNav.svelte';

	let { data, children } = $props();

	const search = $derived(data.mine ? `?mailbox=${data.mine.id}` : '');
	const steps = $derived([
		{ name: 'Due', href: '/own', search },
		...(data.mine?.tidies
			? [
					{ name: 'Mail', href: '/own/mail', search },
					{ name: 'Weight', href: '/own/weight', search }
				]
			: []),
		{ name: 'Policy', href: '/own/policy' }
	]);
</script>

{#if data.own.length > 0}
	<div class="flex items-center justify-between gap-6 px-5 pt-3 print:hidden">
		<StepNav label="My mailbox" {steps} />
		{#if data.own.length > 1}
			<label class="text-sm"
				>Mailbox
				<select
					class="field ml-1"
					value={String(data.mine?.id)}
					onchange={(event) => void goto(`${page.url.pathname}?mailbox=${event.currentTarget.value}`)}
				>
					{#each data.own as { id, name } (id)}<option value={String(id)}>{name}</option>{/each}
				</select></label
			>
		{/if}
	</div>
{/if}
{@render children()}
