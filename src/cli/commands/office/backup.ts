import path from 'node:path';
import { dataFolder, openUpToDate } from '$lib/server/process/index.ts';
import { showMessages } from '../../../core/weigh/units.ts';
import { backUp, backupWords, restoreBackup, setBackupFolder } from '$lib/server/backup/index.ts';
import { command, program, wrongWords } from '../../command.ts';
import { print } from '../../terminal.ts';

/* `backup`, `restore-backup`: a copy of the data folder, verified. */
command<{ out?: string; nightly?: string }>(
	'backup',
	'make a backup while everything runs: one file, opened and checked',
	(c) =>
		c
			.option('--out <folder>', 'where to')
			.option('--nightly <folder>', 'make one there every night; "none": not any more'),
	async (context, { out, nightly }) => {
		if (out === undefined && nightly === undefined) throw wrongWords('name a folder (--out)');
		if (nightly !== undefined)
			await setBackupFolder(context, { folder: nightly === 'none' ? '' : path.resolve(nightly) });
		if (out === undefined) return { result: { nightly }, lines: [`Every night: ${nightly}.`] };
		const backup = await backUp(context, { out: path.resolve(out) });
		const ok = (backup.damage ?? []).length === 0;
		return {
			result: backup,
			lines: [
				backupWords(backup),
				`SHA-256 ${backup.sha256}`,
				...(backup.noted === false ? ['It is not in the ledger: nothing can be written to the data folder now.'] : [])
			],
			ok
		};
	}
);

// opens no data folder: there may be none
program
	.command('restore-backup <file>')
	.description(
		'restore a backup into the data folder (KOVREL_DATA), also on an empty machine; mail destroyed since is destroyed again'
	)
	.option('--replace', 'put aside the data that are there')
	.option('--despite-damage', 'restore the whole messages of a damaged backup')
	.option('--json', 'write one JSON document')
	.exitOverride()
	.action(async (file: string, options: { replace?: boolean; despiteDamage?: boolean; json?: boolean }) => {
		const { replace = false, despiteDamage = false, json = false } = options;
		const done = await restoreBackup({ file, dataFolder: dataFolder(), replace, despiteDamage }, openUpToDate);
		print(done, json, [
			`${showMessages(done.messages)} are in ${done.dataFolder} again, from ${done.file}.`,
			...done.damage.map((damage) => `Damaged, and so not restored whole: ${damage}.`),
			...(done.destroyedAgain > 0
				? [`${showMessages(done.destroyedAgain)} had been destroyed since that backup, and were destroyed again.`]
				: []),
			...(done.broughtForwardFrom
				? [`Who comes in, and what they reach, is as in ${done.broughtForwardFrom}.`]
				: ['No later state of these data was found: look through People and the holds, which are as they were then.']),
			...(done.holdsAgain.length > 0 ? [`Placed again, as since that backup: ${done.holdsAgain.join(', ')}.`] : []),
			...(done.holdsReleasedSince.length > 0
				? [`Standing again, though released since: ${done.holdsReleasedSince.join(', ')}.`]
				: []),
			...(done.readOnly.length > 0
				? [`Read-only until you allow writing again (kovrel write MAILBOX): ${done.readOnly.join(', ')}.`]
				: []),
			'What Kovrel does by itself is asked for once more before it is done.',
			...(done.former ? [`The data that were there lie in ${done.former}.`] : [])
		]);
	});
