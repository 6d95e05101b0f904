<script lang="ts">
	import Explain from '$lib/components/frames/Explain.svelte';
	import { showMoment } from '$lib/moments.ts';
	import { showBytes, showCount } from '../../../core/weigh/units.ts';

	let { data } = $props();
</script>

<svelte:head><title>Certificates – Kovrel</title></svelte:head>

<div class="flex items-center gap-2">
	<h1>Certificates of destruction</h1>
	<Explain word="certificate" />
</div>
<p class="mt-0.5 mb-3 max-w-3xl">
	Each destruction leaves a certificate: what was destroyed, when, under which series and version, by whose decision.
	The ledger holds its hash, so that nobody changes it unseen.
</p>
{#if data.certificates.length === 0}
	<p class="bg-sheet border-rule-strong border p-5">
		Nothing has been destroyed yet. A docket that destroys mail makes a certificate.
	</p>
{:else}
	<table class="sheet">
		<thead
			><tr
				><th>Certificate</th><th>When</th><th>Mailbox</th><th class="number">Messages</th><th class="number">Size</th
				><th>Decided by</th><th>Carried out by</th></tr
			></thead
		>
		<tbody>
			{#each data.certificates as of (of.id)}
				<tr>
					<td><a class="lead" href="/retain/certificates/{of.docketId}">of docket {of.docketId}</a></td>
					<td class="whitespace-nowrap">{showMoment(of.madeAt)}</td>
					<td class="name">{of.mailbox}</td>
					<td class="number">{showCount(of.messages)}</td>
					<td class="number">{showBytes(of.bytes)}</td>
					<td class="name">{of.decidedBy}</td>
					<td class="name">{of.madeBy}</td>
				</tr>
			{/each}
		</tbody>
	</table>
{/if}
