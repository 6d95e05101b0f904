import { readFileSync } from 'node:fs';
import path from 'node:path';
import Joi from 'joi';
import { Refusal } from '../refusal.ts';

/** The addresses of the demo's stand-ins, all on loopback. */
export interface StandIns {
	/** Port of the list operators, for every name under .example. */
	https: number;
	/** Port of the server for outgoing mail. */
	smtp: number;
	/** Port of the post office. */
	post: number;
	/** Port of the mail server with a live mailbox; undefined: there is none. */
	imap?: number;
	/** The certificate of the list operators. */
	ca: string;
	/** The stand-ins' folder: they name no file outside it. */
	folder: string;
}

const port = Joi.number().integer().min(1).max(65_535).required();
const schema = Joi.object<Omit<StandIns, 'folder'>>({
	https: port,
	smtp: port,
	post: port,
	ca: Joi.string().max(10_000).required()
}).unknown();

/** The stand-ins named by a file in KOVREL_STANDINS; undefined without one. @throws Refusal if it is none */
export function standInsInEnvironment(): StandIns | undefined {
	const file = process.env.KOVREL_STANDINS;
	if (!file) return undefined;
	try {
		const where = Joi.attempt(JSON.parse(readFileSync(file, 'utf8')), schema) as Omit<StandIns, 'folder'>;
		return { ...where, folder: path.dirname(path.resolve(file)) };
	} catch (error) {
		throw new Refusal(
			'bad-input',
			`KOVREL_STANDINS names ${file}, which is not the stand-ins' file of a demo. Name that, or leave it out.`,
			{ cause: error }
		);
	}
}
