import { readFileSync } from 'node:fs';
import path from 'node:path';
import Joi from 'joi';

/** Where the stand-ins of the demo listen, all on loopback. */
export interface StandIns {
	/** Port of the list operators: every name under .example leads there. */
	https: number;
	/** Port of the server for outgoing mail. */
	smtp: number;
	/** Port of the post office. */
	post: number;
	/** The certificate by which the list operators are known. */
	ca: string;
	/** Their own folder: nothing that they name lies elsewhere. */
	folder: string;
}

const port = Joi.number().integer().min(1).max(65_535).required();
const schema = Joi.object<Omit<StandIns, 'folder'>>({
	https: port,
	smtp: port,
	post: port,
	ca: Joi.string().max(10_000).required()
}).unknown();

/** The stand-ins that KOVREL_STANDINS names by a file; undefined where it names none. @throws Error */
export function standInsInEnvironment(): StandIns | undefined {
	const file = process.env.KOVREL_STANDINS;
	if (!file) return undefined;
	const where = Joi.attempt(JSON.parse(readFileSync(file, 'utf8')), schema) as Omit<StandIns, 'folder'>;
	return { ...where, folder: path.dirname(path.resolve(file)) };
}
