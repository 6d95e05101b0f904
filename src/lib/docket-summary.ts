import { showMessages } from '../core/weigh/units.ts';

/** A docket in a few words, for the bar that opens it. */
export function docketSummary(docket: { id: number; state: string; messages: number } | null): string {
	return docket === null
		? 'Docket: empty'
		: `Docket ${docket.id}: ${showMessages(docket.messages)}, ${docket.state.replace('-', ' ')}`;
}
