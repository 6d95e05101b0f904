<script lang="ts">
	let { message }: { message: string | undefined } = $props();
</script>

{#if message}<p class="wrong" role="alert">{message}</p>{/if}
