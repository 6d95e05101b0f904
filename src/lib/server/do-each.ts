import type { Context } from './context/index.ts';
import { log } from './log.ts';
import { isMachineFailing, refusalIn } from './machine-trouble.ts';
import { Refusal } from './refusal.ts';

/** A piece of work that is done whether or not the others succeed. */
export interface Piece {
	/** What it is about, as a sentence about its failure begins: a mailbox, a part of the night. */
	name: string;
	work: () => Promise<void>;
}

/* Failures by the names of their pieces, for pieces within pieces. */
class SomeFailed extends Refusal {
	readonly failed: readonly string[];
	constructor(failed: readonly string[]) {
		super('not-possible', `${failed.join(' ')} The rest was done.`);
		this.failed = failed;
	}
}

function reasonsOf(error: unknown, name: string): readonly string[] {
	if (error instanceof SomeFailed) return error.failed;
	const refusal = refusalIn(error);
	if (refusal) return [refusal.message];
	log.error({ error, piece: name }, 'a piece of work failed; the others go on');
	return ['Kovrel made a mistake here; the log has the details.'];
}

/**
 * Does pieces of work one after the other; one that fails keeps none of the others from being done. After a person's stop
 * no other is begun, nor after a failure of the machine: a damaged data file is not worked on.
 *
 * @throws Refusal after the last one, naming those that failed, each with its reason; a single piece, a stop and the
 *   machine throw their own error
 */
export async function doEach({ signal }: Pick<Context, 'signal'>, pieces: readonly Piece[]): Promise<void> {
	const failed: string[] = [];
	for (const { name, work } of pieces) {
		try {
			await work();
		} catch (error) {
			if (signal.aborted || isMachineFailing(error) || pieces.length === 1) throw error;
			failed.push(...reasonsOf(error, name).map((reason) => `${name}: ${reason}`));
		}
		if (signal.aborted) break;
	}
	if (failed.length > 0) throw new SomeFailed(failed);
}
