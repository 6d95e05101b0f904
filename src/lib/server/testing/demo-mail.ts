import { mkdirSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { Scenario } from '../../../../demo/scenario.ts';
import { temporaryFolder } from './office.ts';

/**
 * The letters of the demo's first mailbox, as mbox files in a folder of the test, without the large folders of scans.
 */
export function demoFolder(): string {
	const folder = temporaryFolder();
	const [first] = new Scenario(4711, new Date('2026-11-25T12:00:00Z')).mailboxes();
	for (const { path: place, mbox } of first?.folders ?? []) {
		if (mbox.length > 12_000_000) continue;
		const file = path.join(folder, `${place}.mbox`);
		mkdirSync(path.dirname(file), { recursive: true });
		writeFileSync(file, mbox);
	}
	return folder;
}
