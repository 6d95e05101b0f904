import type { Actor } from './core/access/roles.ts';
import type { RecordClass } from './core/retention/classes.ts';
import type { Office } from '$lib/server/process/index.ts';
import type { SessionPerson } from '$lib/server/access/index.ts';

declare global {
	namespace App {
		interface Locals {
			office: Office;
			/** The person who acts; set on pages that need a sign-in. */
			who: Actor;
			/** The session's person, perhaps with only the first of two sign-in steps done. */
			visitor: SessionPerson | undefined;
		}
		interface PageData {
			/** The classes of the office, where somebody is signed in. */
			classes?: RecordClass[];
		}
		interface Error {
			message: string;
		}
	}
}

export {};
