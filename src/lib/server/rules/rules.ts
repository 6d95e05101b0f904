import { type CalendarDate, showDate } from '../../../core/calendar.ts';
import {
	GROUPS,
	type Rule,
	ruleSentence,
	STANDING_DECISIONS,
	thenWords,
	wrongRule,
	whyWords
} from '../../../core/rules/rule.ts';
import { type Context, defineUseCase, id, text, today } from '../context/index.ts';
import { inTransaction } from '../database/index.ts';
import { appendLedger } from '../ledger/index.ts';
import { getMailbox, listMailboxes, requireMailbox } from '../mail/index.ts';
import { Refusal } from '../refusal.ts';
import {
	addStoredRule,
	lastRun,
	listStoredRules,
	putRuleOn,
	putRuleOrder,
	removeStoredRule,
	rulesThatActed,
	type StoredRule,
	takenByRules
} from './rules-store.ts';
import Joi from 'joi';

/** A standing decision in words, with what it did so far. */
export interface RuleView extends StoredRule {
	mailbox: string;
	sentence: string;
	/** Messages that it took, and the day of the last run in which it took any. */
	messages: number;
	last: CalendarDate | undefined;
}

/** The fields of an input that describe a standing decision. */
export const ruleFields = {
	name: Joi.string().allow('').max(400),
	query: Joi.string().allow('').max(1_000).required(),
	stay: Joi.object({
		newest: Joi.number(),
		per: Joi.valid(...GROUPS),
		olderThan: Joi.string().max(20),
		largerInAll: Joi.number()
	}).default({}),
	then: Joi.valid(...STANDING_DECISIONS).required(),
	options: Joi.object({
		folder: Joi.string().max(2_000),
		tag: Joi.string().max(200),
		leavesFlagged: Joi.boolean()
	}).default({}),
	since: Joi.string().isoDate().max(10),
	until: Joi.string().isoDate().max(10)
};

/** What a person says of a new standing decision; without a name, its sentence's beginning is its name. */
export type RuleGiven = Omit<Rule, 'name'> & { name?: string | undefined };

/** A standing decision as it is given, checked. @throws Refusal */
export function checkedRule(given: RuleGiven): Rule {
	const rule = { ...given, name: given.name?.trim() || `${given.query.trim()}: ${thenWords(given)}`.slice(0, 120) };
	const wrong = wrongRule(rule);
	if (wrong) throw new Refusal('bad-input', `${wrong}. Nothing was changed.`);
	return rule;
}

/** The standing decision with that number. @throws Refusal */
export async function requireRule({ db }: Pick<Context, 'db'>, ruleId: number): Promise<StoredRule> {
	const found = (await listStoredRules(db)).find((rule) => rule.id === ruleId);
	if (!found) throw new Refusal('not-found', `There is no standing decision ${ruleId}. Nothing was changed.`);
	return found;
}

/** The standing decisions of a mailbox, or of all, in the order in which they count. @throws Refusal */
export async function listRules(
	context: Context,
	input: { mailbox?: string | number | undefined }
): Promise<RuleView[]> {
	const { db } = context;
	const only = input.mailbox === undefined ? undefined : await requireMailbox(context, input.mailbox);
	const names = new Map((await listMailboxes(db)).map(({ id: mailboxId, name }) => [mailboxId, name]));
	const views: RuleView[] = [];
	const taken = new Map<number, Awaited<ReturnType<typeof takenByRules>>>();
	for (const rule of await listStoredRules(db, only?.id)) {
		if (!taken.has(rule.mailboxId)) taken.set(rule.mailboxId, await takenByRules(db, rule.mailboxId));
		const did = taken.get(rule.mailboxId)?.get(rule.id);
		views.push({
			...rule,
			mailbox: names.get(rule.mailboxId) ?? '',
			sentence: ruleSentence(rule),
			messages: did?.messages ?? 0,
			last: did?.last
		});
	}
	return views;
}

/** Adds a standing decision, as the last of its mailbox. It acts with the next run. @throws Refusal */
export async function addRule(
	context: Context,
	input: {
		mailbox: string | number;
		rule: RuleGiven;
		/** For a closed thread: one of its messages, whose thread it follows. */
		threadItemId?: number | undefined;
	}
): Promise<{ id: number; sentence: string }> {
	const rule = checkedRule(input.rule);
	return inTransaction(context.db, async (db) => {
		const mailbox = await requireMailbox({ ...context, db }, input.mailbox);
		const added = await addStoredRule(db, mailbox.id, rule, {
			at: context.now(),
			by: context.actor.name,
			threadItemId: input.threadItemId
		});
		await note({ ...context, db }, 'rule-added', { name: rule.name, mailbox: mailbox.name, what: ruleSentence(rule) });
		return { id: added, sentence: ruleSentence(rule) };
	});
}

type RuleAction = 'rule-added' | 'rule-switched' | 'rule-removed' | 'rules-ordered';

async function note({ db, now, actor }: Context, action: RuleAction, details: Record<string, unknown>): Promise<void> {
	await appendLedger(db, { at: now(), by: actor, action, details });
}

/** Switches a standing decision on or off: off, it takes nothing, and what it took stays as it is. @throws Refusal */
export async function switchRule(context: Context, input: { id: number; isOn: boolean }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const { id: ruleId, name, isOn } = await requireRule(within, input.id);
		if (isOn === input.isOn) return;
		await putRuleOn(db, ruleId, input.isOn);
		await note(within, 'rule-switched', { name, on: input.isOn });
	});
}

/** Removes a standing decision; what it did stays, and stays known. @throws Refusal */
export async function removeRule(context: Context, input: { id: number }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const { id: ruleId, name } = await requireRule(within, input.id);
		await removeStoredRule(db, ruleId, context.now().toISOString());
		await note(within, 'rule-removed', { name });
	});
}

/** Puts a standing decision before another one, or last: of two that take a message, the earlier one acts. @throws Refusal */
export async function moveRule(context: Context, input: { id: number; before?: number | undefined }): Promise<void> {
	await inTransaction(context.db, async (db) => {
		const within = { ...context, db };
		const moved = await requireRule(within, input.id);
		const others = (await listStoredRules(db, moved.mailboxId)).filter(({ id: other }) => other !== moved.id);
		const at = input.before === undefined ? others.length : others.findIndex(({ id: other }) => other === input.before);
		if (at < 0) throw new Refusal('bad-input', 'Both belong to one mailbox. Nothing was changed.');
		const order = [...others.slice(0, at), moved, ...others.slice(at)];
		await putRuleOrder(
			db,
			order.map(({ id: ruleId }) => ruleId)
		);
		const mailbox = await getMailbox(db, moved.mailboxId);
		await note(within, 'rules-ordered', { mailbox: mailbox?.name ?? '', what: order.map(({ name }) => name) });
	});
}

/** What acted on a message by itself, in words, the last one first. */
export async function rulesOnMessage({ db }: Pick<Context, 'db'>, input: { itemId: number }): Promise<string[]> {
	return (await rulesThatActed(db, input.itemId)).map(
		({ name, why, stay, on, docketId, state, then, options }) =>
			`The standing decision “${name}” acted on ${showDate(on)}: ${thenWords({ then, options })}, because ${whyWords(why, stay)} (docket ${docketId}${
				state === 'taken-back' ? ', taken back' : ''
			}).`
	);
}

/** Whether standing decisions may have something to do in a mailbox: some are on, and they did not run today. */
export async function rulesAreDue(context: Context, mailboxId: number): Promise<boolean> {
	const { db } = context;
	const isAny = (await listStoredRules(db, mailboxId)).some(({ isOn }) => isOn);
	return isAny && (await lastRun(db, mailboxId)) !== today(context);
}

const mailboxRef = Joi.alternatives(id, text);

/** The use cases of this file. */
export const rulesUseCases = [
	defineUseCase({
		name: 'listRules',
		input: () => Joi.object({ mailbox: mailboxRef }).required(),
		thread: 'reader',
		right: 'administrator',
		run: listRules
	}),
	defineUseCase({
		name: 'addRule',
		input: () => Joi.object({ mailbox: mailboxRef.required(), rule: Joi.object(ruleFields).required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: addRule
	}),
	defineUseCase({
		name: 'switchRule',
		input: () => Joi.object({ id: id.required(), isOn: Joi.boolean().required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: switchRule
	}),
	defineUseCase({
		name: 'removeRule',
		input: () => Joi.object({ id: id.required() }).required(),
		thread: 'writer',
		right: 'administrator',
		run: removeRule
	}),
	defineUseCase({
		name: 'moveRule',
		input: () => Joi.object({ id: id.required(), before: id }).required(),
		thread: 'writer',
		right: 'administrator',
		run: moveRule
	})
] as const;
