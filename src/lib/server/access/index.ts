/* Signing in, sessions, and who may do what. */

export { accountUseCases, atOnceFor, endSessions } from './account.ts';
export {
	addGrant,
	addGroup,
	endGrant,
	findGroup,
	type Grant,
	grantsOf,
	type Group,
	listGrants,
	listGroups,
	listOwners,
	type Owner,
	ownMailboxes,
	type OwnMailbox,
	putMembers,
	putOwner,
	removeGroup
} from './grants-store.ts';
export {
	addPerson,
	addressesOfPeople,
	countAdministrators,
	findPerson,
	hasPeople,
	listPersons,
	type Person,
	type PersonRow,
	putPerson,
	putRecoveryCodes
} from './people-store.ts';
export { type Reach, reachCondition } from './reach-store.ts';
export { reachOf, requireReach, withinReach } from './reach.ts';
export { commandRight, refusalFor, routeRight } from './rights.ts';
export { newToken } from './secrets.ts';
export { endAllSessions, endSessionsWithoutCodes, removeSessions } from './sessions-store.ts';
export { signInByLink, makeLink, signInUseCases, type SessionPerson } from './sign-in.ts';
