<script lang="ts">
	import type { Fetching } from '../../../core/sources/fetching.ts';
	import { showBytes } from '../../../core/weigh/units.ts';

	interface Props {
		fetching: Fetching;
	}
	let { fetching }: Props = $props();
</script>

<div class="flex flex-wrap items-end gap-4 text-sm">
	<label class="flex flex-col gap-1"
		>Fetch first
		<select class="field" name="fetchFirst" value={fetching.fetchFirst}>
			<option value="newest">the newest mail</option>
			<option value="heaviest">the heaviest mail</option>
		</select></label
	>
	<label class="flex flex-col gap-1"
		>At most, a second (empty: no limit)
		<input
			class="field w-32"
			name="limit"
			maxlength="50"
			placeholder="2 MB"
			value={fetching.bytesASecond === null ? '' : showBytes(fetching.bytesASecond)}
		/></label
	>
	<label class="flex flex-col gap-1"
		>Connections
		<select class="field" name="connections" value={String(fetching.connections)}>
			<option value="2">two: new mail is here within seconds</option>
			<option value="1">one: new mail is here within a minute</option>
		</select></label
	>
</div>
