/** Bands of size: each reaches from its first byte to the next one's. The number of a band is what is stored. */
export const SIZE_BANDS = [
	{ from: 0, name: 'under 10 kB' },
	{ from: 10_000, name: '10 to 100 kB' },
	{ from: 100_000, name: '100 kB to 1 MB' },
	{ from: 1_000_000, name: '1 to 5 MB' },
	{ from: 5_000_000, name: '5 to 25 MB' },
	{ from: 25_000_000, name: '25 MB and more' }
] as const;
