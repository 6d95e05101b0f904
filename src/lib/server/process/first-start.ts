import { KOVREL } from '../../../core/access/roles.ts';
import type { Office } from './office.ts';

/** Prints the link for the first administrator, if there are no people: to the terminal only, never to a log. */
export async function printFirstLink(office: Office): Promise<void> {
	const token = await office.change('linkForFirst', undefined, KOVREL);
	if (token === undefined) return;
	const origin = process.env.ORIGIN ?? `http://127.0.0.1:${process.env.PORT ?? 3000}`;
	process.stdout.write(
		`Nobody signs in here yet. Whoever opens this address within a day becomes the administrator; it opens once:\n  ${origin}/come-in/${token}\n`
	);
}
