// The built server, and somebody who is signed in.
import { spawn } from 'node:child_process';
import type { Context } from '../src/lib/server/context/index.ts';
import { addPerson } from '../src/lib/server/people/index.ts';
import { signInByLink } from '../src/lib/server/access/index.ts';

/** An administrator who came in. @returns the header that shows it */
export async function administratorIn(context: Context): Promise<{ cookie: string }> {
	const { link } = await addPerson(context, { name: 'Bench', address: 'bench', role: 'administrator' });
	const from = { device: 'bench', address: 'bench' };
	const { token } = await signInByLink(context, { token: link, password: 'four ferries to Torsay', from });
	return { cookie: `kovrel-session=${token}` };
}

interface Served {
	address: string;
	end(): Promise<void>;
}

/** Starts the built server in a data folder. */
export async function serve(data: string, port: number): Promise<Served> {
	const address = `http://127.0.0.1:${port}`;
	const server = spawn(process.execPath, ['build'], {
		env: { ...process.env, KOVREL_DATA: data, HOST: '127.0.0.1', PORT: String(port), ORIGIN: address },
		stdio: 'ignore'
	});
	process.once('exit', () => server.kill('SIGKILL'));
	for (let tries = 0; tries < 300; tries++) {
		if (
			await fetch(address).then(
				() => true,
				() => false
			)
		)
			break;
		await new Promise((resolve) => setTimeout(resolve, 100));
	}
	const ended = new Promise((resolve) => server.once('exit', resolve));
	return {
		address,
		end: async () => {
			server.kill('SIGTERM');
			await ended;
		}
	};
}
