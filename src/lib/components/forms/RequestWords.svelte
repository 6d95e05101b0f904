<script lang="ts">
	import type { RequestView } from '$lib/server/people/index.ts';
	import { showMessages } from '../../../core/weigh/units.ts';

	/* A request, with what prevents it. */
	let { request }: { request: RequestView } = $props();
</script>

{#if request.wish === 'reach'}
	To find mail in <b>{request.mailbox}</b>{request.folder ? `, folder ${request.folder} and below` : ''}
{:else}
	{showMessages(request.messages)} of <b>{request.mailbox}</b>
	{request.wish === 'keep' ? 'to be kept' : 'to be restored'}
	{#if request.held > 0}<span class="block text-sm"
			>{showMessages(request.held)} under a hold: restored, {request.held === 1 ? 'it stays' : 'they stay'} held</span
		>{/if}
	{#if request.destroyed > 0}<span class="text-wax block text-sm"
			>{showMessages(request.destroyed)}
			{request.destroyed === 1 ? 'was' : 'were'} destroyed, and cannot be restored</span
		>{/if}
{/if}
