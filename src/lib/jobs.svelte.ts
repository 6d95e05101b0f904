import { invalidateAll } from '$app/navigation';
import { navigating } from '$app/state';
import type { JobStatus } from '$lib/server/process/index.ts';

/** The server's jobs, kept current by its events. */
class Jobs {
	/** By number, including those that ended while this page was open. */
	all = $state.raw<ReadonlyMap<number, JobStatus>>(new Map());
	/** Whether the events arrive. */
	connected = $state(true);

	get running(): JobStatus[] {
		return [...this.all.values()].filter((job) => job.state === 'running');
	}

	/** Follows the events until the returned function is called. */
	follow(): () => void {
		const events = new EventSource('/jobs/events');
		events.addEventListener('job', (event: MessageEvent<string>) => this.#take(JSON.parse(event.data) as JobStatus));
		events.onopen = () => (this.connected = true);
		events.onerror = () => (this.connected = false);
		return () => events.close();
	}

	#take(job: JobStatus): void {
		const before = this.all.get(job.id);
		this.all = new Map([...this.all, [job.id, job]]);
		// a job's effect shows in the numbers of every page
		if (job.state !== 'running' && before?.state !== job.state) void this.#refresh();
	}

	/* Refreshing cancels a navigation under way: a click would be lost. */
	async #refresh(): Promise<void> {
		while (navigating.to !== null) await new Promise((resolve) => setTimeout(resolve, 50));
		await invalidateAll();
	}
}

export const jobs = new Jobs();
