/* Standing decisions: what mail may stay, and what happens to the rest. */

export { type Meets, type Rehearsal, rehearseRule, rehearseUseCases } from './rehearse.ts';
export {
	addRule,
	listRules,
	moveRule,
	ruleFields,
	removeRule,
	rulesAreDue,
	rulesOnMessage,
	type RuleGiven,
	rulesUseCases,
	switchRule
} from './rules.ts';
export { exportSieve, importSieve, sieveUseCases } from './sieve.ts';
export { putScriptOnServer, serverScriptUseCases } from './server-script.ts';
export { standingListUseCases } from './standing-list.ts';
export { runRules, runRulesUseCases, type RulesRun, takeBackRule } from './run-rules.ts';
