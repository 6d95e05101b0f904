import type { Instant } from '../message/date.ts';
import { formerSubject } from './base-subject.ts';
import type { Branch } from './conversations.ts';

/** What threading needs of a message. */
export interface ThreadedMessage {
	/** The item's number; messages are given in the order of their arrival. */
	id: number;
	/** Empty if there is none. */
	messageId: string;
	/** The Message-IDs of the References field, else the first of In-Reply-To. */
	references: readonly string[];
	/** The Date field, else the date of receipt; undefined: neither is known. */
	sentAt: Instant | undefined;
	/** Base subject, {@link baseSubject}. */
	subject: string;
	/** The subject as it is shown. */
	title: string;
	isReply: boolean;
}

/** A message in its thread; without a message, a placeholder for one that is missing. */
export interface ThreadNode {
	message: ThreadedMessage | undefined;
	children: ThreadNode[];
}

interface Node extends ThreadNode {
	parent: Node | undefined;
	children: Node[];
	/** The order of arrival: of messages sent at the same time, the earlier goes first. */
	position: number;
}

/**
 * A Message-ID in the form that is compared: unneeded quotation marks around a local part are removed (RFC 5256
 * section 3).
 */
export function comparedId(messageId: string): string {
	return messageId.replace(/^<"([^"\\]+)"@/, '<$1@');
}

const newNode = (): Node => ({ message: undefined, parent: undefined, children: [], position: 0 });

function unlink(node: Node): void {
	if (node.parent) node.parent.children.splice(node.parent.children.indexOf(node), 1);
	node.parent = undefined;
}

/** Whether `node` lies in the branch of `above`. */
function isWithin(node: Node, above: Node): boolean {
	for (let at: Node | undefined = node; at; at = at.parent) if (at === above) return true;
	return false;
}

function link(parent: Node, child: Node): void {
	child.parent = parent;
	parent.children.push(child);
}

/* Step 1: parents and children by References. */
function byReferences(messages: readonly ThreadedMessage[]): Node[] {
	const nodes = new Map<string, Node>();
	const all: Node[] = [];
	const nodeOf = (id: string): Node => {
		let node = nodes.get(id);
		if (!node) {
			node = newNode();
			nodes.set(id, node);
			all.push(node);
		}
		return node;
	};
	messages.forEach((message, position) => {
		const id = comparedId(message.messageId);
		let node = id === '' ? undefined : nodeOf(id);
		// of two with the same Message-ID the second gets none
		if (!node || node.message) {
			node = newNode();
			all.push(node);
		}
		node.message = message;
		node.position = position;
		let above: Node | undefined;
		for (const reference of message.references) {
			const next = nodeOf(comparedId(reference));
			if (above && !next.parent && !isWithin(above, next)) link(above, next);
			above = next;
		}
		// an earlier message's references may have been cut short
		if (above && isWithin(above, node)) return;
		unlink(node);
		if (above) link(above, node);
	});
	return all.filter(({ parent }) => !parent);
}

/* All nodes, each after its children; without recursion, as a hostile thread may have ten thousand levels. */
function childrenFirst(roots: readonly Node[]): Node[] {
	const found: Node[] = [];
	const open = [...roots];
	for (let node = open.pop(); node; node = open.pop()) {
		found.push(node);
		open.push(...node.children);
	}
	return found.reverse();
}

/* Step 3: placeholders are removed, their children move up; at the top they stay if they join several. */
function pruned(roots: readonly Node[]): Node[] {
	for (const node of childrenFirst(roots))
		node.children = node.children.flatMap((child) => (child.message ? [child] : child.children));
	return roots.flatMap((root) => (root.message || root.children.length > 1 ? [root] : root.children));
}

const sentAt = (node: Node): number => (node.message ?? node.children[0]?.message)?.sentAt ?? 0;
const positionOf = (node: Node): number => (node.message ? node.position : (node.children[0]?.position ?? 0));
const earlierFirst = (a: Node, b: Node) => sentAt(a) - sentAt(b) || positionOf(a) - positionOf(b);

/* Steps 4 and 6: by date sent; a placeholder goes by its first child. */
function sorted(roots: Node[]): Node[] {
	for (const node of childrenFirst(roots)) node.children.sort(earlierFirst);
	return roots.sort(earlierFirst);
}

const subjectOf = (node: ThreadNode): string => (node.message ?? node.children[0]?.message)?.subject ?? '';

/* Step 5: threads with the same base subject are joined. */
function bySubject(roots: readonly Node[]): Node[] {
	const table = new Map<string, Node>();
	for (const root of roots) {
		const subject = subjectOf(root);
		if (subject === '') continue;
		const known = table.get(subject);
		if (!known || (known.message && (!root.message || (known.message.isReply && !root.message.isReply))))
			table.set(subject, root);
	}
	const gone = new Set<Node>();
	const places = new Map<Node, Node>();
	for (const root of roots) {
		const subject = subjectOf(root);
		const kept = subject === '' ? undefined : table.get(subject);
		if (!kept || kept === root) continue;
		gone.add(root);
		if (!kept.message && !root.message) kept.children.push(...root.children);
		else if (!kept.message) kept.children.push(root);
		else if (root.message?.isReply && !kept.message.isReply) kept.children.push(root);
		else {
			const both: Node = { ...newNode(), children: [kept, root], position: kept.position };
			table.set(subject, both);
			places.set(kept, both);
		}
	}
	return roots.filter((root) => !gone.has(root)).map((root) => places.get(root) ?? root);
}

function rootsOf(messages: readonly ThreadedMessage[]): Node[] {
	const roots = byReferences(messages);
	return sorted(pruned(roots));
}

/**
 * Threads messages.
 *
 * @param messages in the order in which they came
 * @returns the threads, by the time of their first message
 * @see RFC 5256 section 3, REFERENCES
 */
export function threadsOf(messages: readonly ThreadedMessage[]): ThreadNode[] {
	return sorted(bySubject(rootsOf(messages)));
}

/** The messages of a thread, parents before their children, each with its parent. */
export function* walkThread(
	node: ThreadNode,
	above?: ThreadedMessage
): Generator<{ message: ThreadedMessage; parent: ThreadedMessage | undefined; depth: number }> {
	const open = [{ node, above, depth: 0 }];
	for (let next = open.pop(); next; next = open.pop()) {
		const { message, children } = next.node;
		if (message) yield { message, parent: next.above, depth: next.depth };
		const depth = next.depth + (message ? 1 : 0);
		for (const child of [...children].reverse()) open.push({ node: child, above: message ?? next.above, depth });
	}
}

/**
 * The branches of a connected set of messages, which a subject may join with others ({@link conversationsOf}). A new
 * message changes only the set it belongs to, so that new mail is threaded without the rest of the mailbox.
 *
 * @param messages all that are connected by their Message-IDs and references, in the order of arrival
 */
export function branchesOf(messages: readonly ThreadedMessage[]): Omit<Branch, 'people'>[] {
	return rootsOf(messages).map((root) => {
		const members = [...walkThread(root)].map(({ message }) => message);
		const top = root.message ?? members[0];
		// links say where it belongs; without them, a subject that names its former one may
		const isUnlinked = root.message?.references.length === 0;
		const former = isUnlinked ? formerSubject(root.message?.title ?? '') : undefined;
		const sent = members.flatMap(({ sentAt }) => (sentAt === undefined ? [] : [sentAt]));
		return {
			ids: members.map(({ id }) => id),
			subject: former ?? top?.subject ?? '',
			title: top?.title ?? '',
			isLoose: isUnlinked && (root.message?.isReply === true || former !== undefined),
			firstAt: top?.sentAt,
			newestAt: sent.length === 0 ? undefined : sent.reduce((newest, at) => Math.max(newest, at))
		};
	});
}
