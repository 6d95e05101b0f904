<script lang="ts">
	import CertificateSheet from '$lib/components/docket/CertificateSheet.svelte';

	let { data } = $props();
</script>

<svelte:head><title>Certificate of docket {data.certificate.docketId} – Kovrel</title></svelte:head>

<div class="mb-2 flex gap-2 print:hidden">
	<button class="quiet" type="button" onclick={() => window.print()}>Print</button>
	<a class="quiet" href="/retain/certificates/{data.certificate.docketId}/csv" download>As CSV</a>
	<a class="quiet" href="/retain/certificates/{data.certificate.docketId}/json" download>As JSON</a>
	<a class="quiet" href="/dockets/{data.certificate.docketId}">Its docket</a>
</div>
<CertificateSheet certificate={data.certificate} />
