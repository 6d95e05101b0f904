<script lang="ts">
	import { showMoment } from '$lib/moments.ts';
	import type { CertificateView } from '$lib/server/docket/index.ts';
	import { showDate } from '../../../core/calendar.ts';
	import { showBytes, showCount, showMessages } from '../../../core/weigh/units.ts';

	let { certificate, heading = 'h1' }: { certificate: CertificateView; heading?: 'h1' | 'h2' } = $props();

	const keepsSubjects = $derived(certificate.items.some(({ subject, from }) => subject !== '' || from !== ''));
</script>

<section class="bg-sheet border-rule-strong border p-5 print:border-0 print:p-0" aria-labelledby="certificate">
	<svelte:element this={heading} id="certificate">Certificate of destruction</svelte:element>
	<p class="mt-1">
		{showMessages(certificate.messages)} ({showBytes(certificate.bytes)}) of {certificate.mailbox}
		{certificate.messages === 1 ? 'was' : 'were'} destroyed on {showMoment(certificate.madeAt)}, by docket {certificate.docketId}.
		{certificate.decidedBy ? `Decided by ${certificate.decidedBy}, carried` : 'Carried'} out by {certificate.madeBy}.
	</p>
	<ul class="mt-2 list-disc pl-5 text-sm">
		{#each certificate.grounds as { words, messages }, at (at)}<li>{showMessages(messages)}: {words}.</li>{/each}
	</ul>
	{#if certificate.reach}<p class="mt-2 text-sm">{certificate.reach}</p>{/if}
	<p class="mt-2 text-sm" data-testid="genuine">
		{#if certificate.isGenuine === undefined}
			The ledger has no SHA-256 of this certificate: it is older than that, or still being written.
		{:else if certificate.isGenuine}
			The ledger has the same SHA-256:
			<code class="break-all">{certificate.sha256}</code>
		{:else}
			<b class="text-wax">The ledger has another SHA-256: this certificate was changed after it was made.</b>
		{/if}
	</p>
	<table class="sheet mt-3">
		<thead
			><tr
				><th class="number">Item</th><th class="number">Received</th><th class="number">Due</th><th>Series</th
				>{#if keepsSubjects}<th>From, subject</th>{/if}<th class="number">Size</th><th>SHA-256</th><th>Bytes</th></tr
			></thead
		>
		<tbody>
			{#each certificate.items as item (item.itemId)}
				<tr>
					<td class="number">{item.itemId}</td>
					<td class="number">{item.receivedOn ? showDate(item.receivedOn) : 'undated'}</td>
					<td class="number"
						>{item.dueOn ? showDate(item.dueOn) : item.binnedOn ? `deleted ${showDate(item.binnedOn)}` : 'deleted'}</td
					>
					<td class="whitespace-nowrap">{item.series ? `${item.series}, v${item.version}` : ''}</td>
					{#if keepsSubjects}<td class="text-sm">{item.from}<br />{item.subject}</td>{/if}
					<td class="number">{showBytes(item.bytes)}</td>
					<td class="font-mono text-xs break-all">{item.sha256}</td>
					<td class="text-sm">{item.isElsewhere ? 'still needed by another message' : 'gone'}</td>
				</tr>
			{/each}
		</tbody>
	</table>
	{#if certificate.messages > certificate.items.length}
		<p class="text-ink-soft mt-1 text-sm">
			The first {showCount(certificate.items.length)} are shown; the CSV and JSON documents hold all.
		</p>
	{/if}
</section>
