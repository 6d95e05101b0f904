<script lang="ts">
	interface Props {
		label: string;
		value: string;
		/** Names that exist, the likeliest first. */
		names: readonly string[];
		/** The longest name, in characters. */
		longest: number;
	}
	let { label, value = $bindable(), names, longest }: Props = $props();
	const id = $props.id();

	/* The first letter typed replaces the filled-in name. */
	const selectAll = (event: FocusEvent & { currentTarget: HTMLInputElement }) => event.currentTarget.select();
</script>

<label class="flex items-center gap-2 text-sm"
	>{label}
	<input
		class="field w-72"
		list="{id}-names"
		bind:value
		onfocus={selectAll}
		{@attach (field) => field.focus()}
		required
		maxlength={longest}
	/></label
>
<datalist id="{id}-names"
	>{#each names as name (name)}<option value={name}></option>{/each}</datalist
>
