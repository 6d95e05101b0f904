import type { Actor } from './core/access/roles.ts';
import type { Office } from '$lib/server/process/index.ts';
import type { Visitor } from '$lib/server/access/index.ts';

declare global {
	namespace App {
		interface Locals {
			office: Office;
			/** Who acts; only on pages that somebody has to have signed in for. */
			who: Actor;
			/** Who shows a session, perhaps only half-way in. */
			visitor: Visitor | undefined;
		}
		interface Error {
			message: string;
		}
	}
}

export {};
