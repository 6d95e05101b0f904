import { expect, it } from 'vitest';
import { bytesOf } from '../../../core/testing/bytes.ts';
import { closeFilesPool, filesTextInThread } from './files-pool.ts';

const MESSAGE = bytesOf(
	'Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\n\r\nSee the list.\r\n--b\r\nContent-Type: text/csv; name="berths.csv"\r\nContent-Disposition: attachment; filename="berths.csv"\r\n\r\nberth,fee\r\nTorsay,40\r\n--b--\r\n'
);

it('knows nothing of files whose reading was cut off, and reads them afterwards', async () => {
	const cutOff = filesTextInThread(MESSAGE);
	const [outcome] = await Promise.allSettled([cutOff, closeFilesPool()]);
	// "unreadable" would be final
	expect(outcome.status).toBe('rejected');
	expect(await filesTextInThread(MESSAGE)).toMatchObject({ outcome: 'read', text: expect.stringContaining('Torsay') });
	await closeFilesPool();
});
