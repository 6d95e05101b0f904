/** The kinds of refusals. `no-writing`: nothing can be written now, but what is there can be read. */
export type RefusalCode =
	'not-found' | 'bad-input' | 'changed' | 'not-possible' | 'no-writing' | 'damaged' | 'forbidden' | 'too-many';

/**
 * Something was not done, for a reason that the person can understand and act on: the message is a sentence for them
 * that says what was and was not done; the cause is for the log.
 */
export class Refusal extends Error {
	override name = 'Refusal';
	readonly code: RefusalCode;
	constructor(code: RefusalCode, message: string, options?: ErrorOptions) {
		super(message, options);
		this.code = code;
	}
}
