<script lang="ts">
	import { Progress } from '@skeletonlabs/skeleton-svelte';
	import { type Seen, timeLeftWords } from '../../../core/jobs/time-left.ts';
	import type { JobStatus } from '$lib/server/process/index.ts';

	let { job }: { job: JobStatus } = $props();

	const percent = $derived(
		job.progress?.total ? Math.min(100, Math.floor((100 * job.progress.done) / job.progress.total)) : null
	);
	let stopping = $state(false);

	/* How long it goes on, by what was seen of it since this page shows it. */
	let first: Seen | undefined;
	const left = $derived.by(() => {
		const { done = 0, total = 0 } = job.progress ?? {};
		const now = { at: Date.now(), done };
		if (total === 0) return '';
		first ??= now;
		return timeLeftWords(first, now, total);
	});

	async function stop() {
		stopping = true;
		await fetch(`/jobs/${job.id}`, { method: 'DELETE' });
	}
</script>

<div class="flex flex-col gap-1">
	<Progress value={percent} class="gap-1">
		<Progress.Label class="text-sm whitespace-normal">{job.label}</Progress.Label>
		<Progress.Track class="h-2 rounded-none bg-rule"><Progress.Range class="amount bg-stamp" /></Progress.Track>
	</Progress>
	<div class="flex items-center justify-between text-sm text-ink-soft">
		<span role="status"
			>{stopping ? 'Stopping after this step …' : (job.progress?.note ?? 'Beginning …')}{percent === null || stopping
				? ''
				: `, ${percent} %${left ? `, ${left}` : ''}`}</span
		>
		<button class="quiet" type="button" onclick={stop} disabled={stopping}>Stop</button>
	</div>
</div>
