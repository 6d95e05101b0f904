<script lang="ts">
	import type { SheetFilter } from '$lib/server/web/lots-address.ts';
	import { GROUPINGS } from '../../../core/lots/lots.ts';

	interface Props {
		asked: SheetFilter;
		folders: readonly string[];
		ages: readonly { name: string; cutoff: string }[];
		/** Loads the sheet with a changed filter. */
		onShow: (changed: Record<string, string>) => void;
	}
	let { asked, folders, ages, onShow }: Props = $props();

	const SIZES = ['100kB', '1MB', '5MB', '25MB'];
	const onChange = (name: string) => (event: Event & { currentTarget: HTMLInputElement | HTMLSelectElement }) =>
		onShow({ [name]: event.currentTarget.value });
	const onCheck = (name: string) => (event: Event & { currentTarget: HTMLInputElement }) =>
		onShow({ [name]: event.currentTarget.checked ? '1' : '' });
</script>

<!-- the grouping of a sheet of lots, and its filters -->
<div class="bg-sheet border-rule-strong flex flex-wrap items-end gap-x-3 gap-y-2 border p-3 text-sm">
	<label class="flex flex-col gap-0.5"
		><span class="font-semibold">Group by</span>
		<select
			class="field"
			value={asked.by}
			onchange={(event) => onShow({ by: event.currentTarget.value, sort: '', descending: '' })}
		>
			{#each Object.entries(GROUPINGS) as [value, name] (value)}<option {value}>{name}</option>{/each}
		</select></label
	>
	{#if folders.length > 0}
		<label class="flex flex-col gap-0.5"
			><span>In the folder</span>
			<select class="field max-w-44" value={asked.folder} onchange={onChange('folder')}>
				<option value="">any</option>
				{#each folders as path (path)}<option value={path}>{path}</option>{/each}
			</select></label
		>
	{/if}
	<label class="flex flex-col gap-0.5"
		><span>Older than</span>
		<select class="field" value={asked.older} onchange={onChange('older')}>
			<option value="">any age</option>
			{#each ages as { name, cutoff } (cutoff)}<option value={cutoff}>{name}</option>{/each}
		</select></label
	>
	<label class="flex flex-col gap-0.5"
		><span>Larger than</span>
		<select class="field" value={asked.larger} onchange={onChange('larger')}>
			<option value="">any size</option>
			{#each SIZES as size (size)}<option value={size}>{size.replace(/(\d+)/, '$1 ')}</option>{/each}
		</select></label
	>
	<form
		class="flex min-w-44 flex-1 flex-col gap-0.5"
		onsubmit={(event) => {
			event.preventDefault();
			onShow({ q: String(new FormData(event.currentTarget).get('q') ?? '') });
		}}
	>
		<label for="sheet-query">Matching</label>
		<input class="field" id="sheet-query" name="q" type="search" value={asked.q} placeholder="words, from:, list: …" />
	</form>
	<fieldset class="flex flex-wrap gap-x-3">
		<legend class="sr-only">Only</legend>
		<label class="flex items-center gap-1"
			><input type="checkbox" checked={asked.unread !== ''} onchange={onCheck('unread')} /> unread</label
		>
		<label class="flex items-center gap-1"
			><input type="checkbox" checked={asked.attached !== ''} onchange={onCheck('attached')} /> with attachment</label
		>
		<label class="flex items-center gap-1"
			><input type="checkbox" checked={asked.unanswered !== ''} onchange={onCheck('unanswered')} /> never answered</label
		>
	</fieldset>
</div>
