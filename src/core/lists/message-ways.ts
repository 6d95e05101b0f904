import { readAddresses } from '../message/addresses.ts';
import { readBody } from '../message/body.ts';
import { fieldValue } from '../message/header.ts';
import { divideText } from '../message/quoted.ts';
import { scanStructure } from '../message/structure.ts';
import { findOffer } from './offers.ts';
import { oneClick, readWays, type Way } from './ways.ts';

/** The ways to unsubscribe in a message of a list. */
export interface MessageWays {
	ways: Way[];
	/** Why one-click unsubscribing is not possible; undefined: it is. */
	noClick: string | undefined;
	/** The sender of the message. */
	sender: string;
	/** The address to which the list posts; empty if the message does not say. */
	writesTo: string;
}

/* The recipient address: the one that is subscribed. */
const DELIVERED = ['delivered-to', 'x-original-to', 'to'];

/** Reads the ways to unsubscribe from one message of a list. */
export function readMessageWays(bytes: Uint8Array): MessageWays {
	const root = scanStructure(bytes);
	const { text, html } = readBody(bytes, root);
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
