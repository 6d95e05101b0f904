<script lang="ts">
	import type { Weighing } from '$lib/server/weigh/index.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { showBytes } from '../../../core/weigh/units.ts';

	type Large = Weighing['largest'][number];
	interface Props {
		messages: readonly Large[];
		/** Set where messages of several mailboxes are shown. */
		mailboxes?: readonly { id: number; name: string }[];
		onOpen: (id: number) => void;
	}
	let { messages, mailboxes, onOpen }: Props = $props();

	const SHOWN = 20;
	const placeOf = ({ mailboxId, folder }: Large) => {
		const name = mailboxes?.find(({ id }) => id === mailboxId)?.name;
		return name === undefined ? folder : `${name}, ${folder}`;
	};
</script>

{#if messages.length > 0}
	<section aria-labelledby="largest">
		<h2 id="largest" class="mb-1.5">The largest messages</h2>
		<table class="sheet table-fixed">
			<thead>
				<tr>
					<th class="number w-20">Size</th><th>Subject</th><th class="w-[22%]">From</th><th class="w-[20%]">Folder</th
					><th class="w-28">Received</th>
				</tr>
			</thead>
			<tbody>
				{#each messages.slice(0, SHOWN) as message (message.id)}
					<tr>
						<td class="number">{showBytes(message.bytes)}</td>
						<td class="truncate">
							<button class="lead max-w-full truncate text-left" type="button" onclick={() => onOpen(message.id)}
								>{message.subject || '(no subject)'}</button
							>
						</td>
						<td class="truncate" title={message.fromAddress}>{message.fromName || message.fromAddress}</td>
						<td class="truncate" title={placeOf(message)}>{placeOf(message)}</td>
						<td class="whitespace-nowrap">{message.receivedOn ? showDate(message.receivedOn) : 'undated'}</td>
					</tr>
				{/each}
			</tbody>
		</table>
	</section>
{/if}
