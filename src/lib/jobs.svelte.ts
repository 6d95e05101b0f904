import { invalidateAll } from '$app/navigation';
import { navigating } from '$app/state';
import type { JobStatus } from '$lib/server/process/index.ts';

/** The jobs of the server as they go on, told by its events. */
class Jobs {
	/** By number; those that ended while this page was open among them. */
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
		// what it did shows in the numbers of every page
		if (job.state !== 'running' && before?.state !== job.state) void this.#refresh();
	}

	/* Refreshing drops a navigation that is under way: somebody's click would be lost. */
	async #refresh(): Promise<void> {
		while (navigating.to !== null) await new Promise((resolve) => setTimeout(resolve, 50));
		await invalidateAll();
	}
}

export const jobs = new Jobs();
