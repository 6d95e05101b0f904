import { readAddresses } from '../message/addresses.ts';
import { readBody } from '../message/body.ts';
import { fieldValue } from '../message/header.ts';
import { divideText } from '../message/quoted.ts';
import { scanStructure } from '../message/structure.ts';
import { findOffer } from './offers.ts';
import { oneClick, readWays, type Way } from './ways.ts';

/** What a message of a list says of leaving it. */
export interface MessageWays {
	ways: Way[];
	/** Why it cannot be left by one request; undefined: it can. */
	noClick: string | undefined;
	/** Who sent the message. */
	sender: string;
	/** The address to which the list writes; empty where the message does not say. */
	writesTo: string;
}

/* Whom the message was delivered to: that is the address under which it was subscribed. */
const DELIVERED = ['delivered-to', 'x-original-to', 'to'];

/** Reads how a list can be left off one of its messages. */
export async function readMessageWays(bytes: Uint8Array): Promise<MessageWays> {
	const root = scanStructure(bytes);
	const { text, html } = await readBody(bytes, root);
	const click = oneClick(root.header);
	const address = DELIVERED.map(
		(name) => /[^\s<>,;"]+@[^\s<>,;"]+/.exec(fieldValue(root.header, name) ?? '')?.[0]
	).find((found) => found !== undefined);
	return {
		ways: readWays(root.header, findOffer(divideText(text).own, html)),
		noClick: 'why' in click ? click.why : undefined,
		sender: readAddresses(fieldValue(root.header, 'from'))[0]?.address ?? '',
		writesTo: (address ?? '').toLowerCase()
	};
}
