/* People, groups, grants, owners and requests. */

export { ownUseCases } from './own.ts';
export { askReviews, listedReviews, reviewsUseCases } from './reviews.ts';
export { tidyOwnUseCases } from './tidy-own.ts';
export {
	addPerson,
	setAccess,
	changeGroup,
	changePerson,
	grant,
	listPeople,
	newLink,
	peopleUseCases,
	requirePerson,
	revoke,
	setOwner
} from './people.ts';
export {
	type Answer,
	answerRequest,
	countAnswers,
	countRequests,
	makeRequest,
	requestsUseCases,
	type RequestView
} from './requests.ts';
