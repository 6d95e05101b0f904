import { today } from '../../context/index.ts';
import { destruction, type ItemWork } from '../../docket/index.ts';
import { Refusal } from '../../refusal.ts';

/** Destroys mail whose period has ended, without the bin. */
export const dispose: ItemWork = {
	about: 'messages',
	check(context, _mailbox, { scope }) {
		if (scope.kind !== 'again' && (scope.kind !== 'due' || scope.by > today(context)))
			throw new Refusal(
				'bad-input',
				'Only mail that has reached the end of its period can be destroyed without going through the bin. Nothing was done.'
			);
	},
	change: destruction
};
