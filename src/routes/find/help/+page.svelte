<script lang="ts">
	import SearchKeys from '$lib/components/forms/SearchKeys.svelte';
</script>

<svelte:head><title>Search syntax – Kovrel</title></svelte:head>
<main class="max-w-4xl px-3 sm:px-5 py-4">
	<h1>Search syntax</h1>
	<p class="mt-1 mb-3">
		Words are enough. They are looked for in the subject, the text, the names of people, and in attached files; what you
		may not see is not found. While you write, suggestions come; the arrow keys go through them. A time in words, such
		as
		<i>last winter</i> or <i>March 2021</i>, is suggested as dates: it stays words until you take the suggestion.
	</p>
	<SearchKeys />
	<h2 class="mt-5 mb-1">Examples</h2>
	<ul class="list-inside list-disc">
		<li>
			<a class="lead" href="/find?q={encodeURIComponent('"ramp limit" since:2023')}"
				><code>"ramp limit" since:2023</code></a
			>
		</li>
		<li>
			<a class="lead" href="/find?q={encodeURIComponent('invoice attachment:pdf not draft')}"
				><code>invoice attachment:pdf not draft</code></a
			>
		</li>
		<li>
			<a class="lead" href="/find?q={encodeURIComponent('from:northfuel (surcharge or price)')}"
				><code>from:northfuel (surcharge or price)</code></a
			>
		</li>
	</ul>
	<p class="mt-5"><a class="lead" href="/find">Back to Find</a></p>
</main>
