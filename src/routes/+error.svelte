<script lang="ts">
	import { page } from '$app/state';
</script>

<svelte:head><title>Error – Kovrel</title></svelte:head>
<main class="p-5">
	<h1 class="mb-3">That did not work</h1>
	<p class="wrong max-w-2xl" role="alert">{page.error?.message}</p>
	<p class="mt-4"><a class="lead" href="/">Back to the first page</a></p>
</main>
