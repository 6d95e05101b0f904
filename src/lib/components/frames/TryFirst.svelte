<script lang="ts">
	import { browser } from '$app/environment';
	import XIcon from '@lucide/svelte/icons/x';
	import { showCount } from '../../../core/weigh/units.ts';

	/* What somebody new to the demo could try; it goes away for good when it is closed. */
	let { mailboxId, requests }: { mailboxId: number; requests: number } = $props();

	const KEPT_AS = 'kovrel-demo-card';
	// on the server nobody knows whether it was closed
	let isClosed = $derived(!browser || localStorage.getItem(KEPT_AS) === 'closed');
	function close() {
		localStorage.setItem(KEPT_AS, 'closed');
		isClosed = true;
	}
</script>

{#if !isClosed}
	<section class="bg-docket border-rule-strong mb-4 border p-3 text-sm" aria-labelledby="try-first">
		<div class="flex items-baseline gap-2">
			<h2 id="try-first" class="mr-auto">What you could try first</h2>
			<button class="quiet px-1!" type="button" onclick={close} aria-label="Close this card" title="Close"
				><XIcon size={14} aria-hidden="true" /></button
			>
		</div>
		<ol class="mt-1 list-decimal pl-5">
			<li>
				Draft a docket from the table below, carry it out on the slip, and take it back: every message returns to its
				folder.
			</li>
			<li>
				A list still writes though it was asked to stop:
				<a class="lead" href="/m/{mailboxId}/lists?all=1&show=still-writing">block it</a>, and see
				<a class="lead" href="/m/{mailboxId}/lists/since">what unsubscribing brought</a>.
			</li>
			<li>
				{requests === 1 ? '1 colleague asks' : `${showCount(requests)} colleagues ask`} for archived mail:
				<a class="lead" href="/people/requests">answer</a>, then sign in as Jonas and find it.
			</li>
			<li>
				Ruben prepared a docket that empties the bin: open it among the other dockets on the slip, and approve it. Then
				let a day pass, at the foot of the page.
			</li>
		</ol>
	</section>
{/if}
