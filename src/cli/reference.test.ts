import { expect, it } from 'vitest';
import { program } from './command.ts';
import './commands/index.ts';
import { referenceOf } from './reference.ts';

it('is written into docs/terminal.md as the commands are', async () => {
	await expect(referenceOf(program)).toMatchFileSnapshot('../../docs/terminal.md');
});
