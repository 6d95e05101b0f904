import { expect, it } from 'vitest';
import { readAddresses } from './addresses.ts';

/* Common practice, beside the examples of RFC 5322 appendix A. */
it.each([
	['ada@x.example (Ada Quay)', 'Ada Quay <ada@x.example>'],
	['<ada@x.example> (Ada Quay)', 'Ada Quay <ada@x.example>'],
	['Ada <ada@x.example> (the cook)', 'Ada <ada@x.example>'],
	['"(Ada)" <ada@x.example>', '(Ada) <ada@x.example>'],
	['<@a.example,@b.example:ada@x.example>', '<ada@x.example>']
])('%s', (field, expected) => {
	const [one] = readAddresses(field);
	expect(`${one?.name ? `${one.name} ` : ''}<${one?.address ?? ''}>`).toBe(expected);
});

it('comes to an end with brackets that do not', () => {
	expect(readAddresses(`${'('.repeat(90_000)} <ada@x.example>`).length).toBeLessThan(2);
});
