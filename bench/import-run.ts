import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { leanArguments, leanMemory } from '../tools/memory.js';

/** An import that has come to its end. */
export interface ImportRun {
	seconds: number;
	peakBytes: number;
	data: string;
	added: number;
}

/** The terminal's import, as a person would start it; its peak memory as the kernel has it. */
export async function importByTerminal(mbox: string, data: string, ...options: string[]): Promise<ImportRun> {
	const began = performance.now();
	const child = spawn(
		process.execPath,
		[
			...leanArguments,
			path.join('build', 'programs', 'kovrel.mjs'),
			'import',
			mbox,
			'--mailbox',
			'Bench',
			'--json',
			'--new',
			...options
		],
		{ env: { ...leanMemory, ...process.env, KOVREL_DATA: data }, stdio: ['ignore', 'pipe', 'inherit'] }
	);
	let peakBytes = 0;
	const look = setInterval(() => {
		try {
			const status = readFileSync(`/proc/${child.pid}/status`, 'utf8');
			peakBytes = Math.max(peakBytes, 1024 * Number(/VmHWM:\s+(\d+)/.exec(status)?.[1] ?? 0));
		} catch {
			// it has ended
		}
	}, 100);
	let out = '';
	for await (const chunk of child.stdout) out += String(chunk);
	clearInterval(look);
	return { seconds: (performance.now() - began) / 1000, peakBytes, data, added: Number(JSON.parse(out).added) };
}
