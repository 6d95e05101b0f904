<script lang="ts">
	import ChevronDownIcon from '@lucide/svelte/icons/chevron-down';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';

	/* Selects the mailboxes that a page shows as one; the selection stands in its address. */
	let { selected }: { selected: readonly number[] | undefined } = $props();

	const mailboxes = $derived(page.data.mailboxes as { id: number; name: string }[]);
	/* A second tick comes before the answer to the first. */
	let ticked = $derived(selected);
	const isSelected = (id: number) => ticked?.includes(id) ?? true;
	const shown = $derived(mailboxes.filter(({ id }) => isSelected(id)));
	const NAMED = 3;
	const words = $derived(
		shown.length === mailboxes.length
			? `All ${mailboxes.length} mailboxes`
			: shown.length <= NAMED
				? shown.map(({ name }) => name).join(', ')
				: `${shown.length} of ${mailboxes.length} mailboxes`
	);

	function select(ids: readonly number[]) {
		const address = new URL(page.url);
		address.searchParams.delete('page');
		ticked = ids.length === 0 || ids.length === mailboxes.length ? undefined : ids;
		if (ticked) address.searchParams.set('in', ticked.join(','));
		else address.searchParams.delete('in');
		void goto(address.pathname + address.search, { keepFocus: true, noScroll: true });
	}
	const toggle = (id: number) =>
		select(mailboxes.filter((one) => isSelected(one.id) !== (one.id === id)).map((one) => one.id));
</script>

<details class="relative" data-testid="mailboxes">
	<summary class="quiet inline-flex cursor-pointer items-center gap-1.5 text-sm"
		>Mailboxes: <b>{words}</b> <ChevronDownIcon size={14} aria-hidden="true" /></summary
	>
	<fieldset
		class="bg-sheet border-rule-strong absolute z-20 mt-1 flex max-h-80 w-72 flex-col gap-2 overflow-auto border p-3 shadow-lg"
	>
		<legend class="sr-only">Mailboxes shown as one</legend>
		{#each mailboxes as { id, name } (id)}
			<label class="flex items-center gap-2"
				><input
					type="checkbox"
					checked={isSelected(id)}
					disabled={shown.length === 1 && isSelected(id)}
					onchange={() => toggle(id)}
				/>{name}</label
			>
		{/each}
		<button class="quiet mt-1 text-sm" type="button" disabled={ticked === undefined} onclick={() => select([])}
			>Select all mailboxes</button
		>
	</fieldset>
</details>
