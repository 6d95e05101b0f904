<script lang="ts">
	import { page } from '$app/state';
	import StepNav from '$lib/components/frames/StepNav.svelte';

	let { data, children } = $props();

	/* The selected mailbox stays the same on all pages of Retain. */
	const several = $derived(page.url.searchParams.get('in') ?? page.url.searchParams.get('mailbox') ?? '');
	const one = $derived(/^\d+$/.test(several) ? several : '');
	const isAuditor = $derived(data.person?.role === 'auditor');
	const FOR_AUDITORS = ['/retain/schedule', '/retain/policy', '/retain/certificates'];
	const all = $derived([
		{ name: 'Due', href: '/retain', search: several && `?in=${encodeURIComponent(several)}` },
		{ name: 'Folders', href: '/retain/folders', search: one && `?mailbox=${one}` },
		{
			name: 'Schedule',
			href: '/retain/schedule',
			waits: data.seriesNames.length > 0 ? String(data.seriesNames.length) : ''
		},
		{ name: 'Scheduled run', href: '/retain/run' },
		{ name: 'Reviews', href: '/retain/reviews' },
		{ name: 'Holds', href: '/retain/holds', waits: data.holds > 0 ? String(data.holds) : '' },
		{ name: 'Policy', href: '/retain/policy' },
		{ name: 'Certificates', href: '/retain/certificates' }
	]);
	const steps = $derived(isAuditor ? all.filter(({ href }) => FOR_AUDITORS.includes(href)) : all);
</script>

<main class="px-3 sm:px-5 py-4">
	<div class="print:hidden"><StepNav label="Retention" {steps} /></div>
	{@render children()}
</main>
