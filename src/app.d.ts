import type { Office } from '$lib/server/office.ts';

declare global {
	namespace App {
		interface Locals {
			office: Office;
			/** Who acts. */
			who: string;
		}
		interface Error {
			message: string;
		}
	}
}

export {};
