/**
 * The colours of tags by the word under which they are stored, each with its name as shown and a letter for people who cannot
 * tell colours apart. Ground and ink pass WCAG AA on
 * each other (4.5 to 1; a test computes it) in both themes, as a tag brings its own ground.
 */
export const TAG_COLOURS = {
	harbour: { name: 'blue', letter: 'B', ground: '#1d4f7c', ink: '#ffffff' },
	kelp: { name: 'green', letter: 'G', ground: '#2f5d3a', ink: '#ffffff' },
	rust: { name: 'red', letter: 'R', ground: '#8f3a1d', ink: '#ffffff' },
	buoy: { name: 'yellow', letter: 'Y', ground: '#f2c230', ink: '#2b2205' },
	heather: { name: 'purple', letter: 'P', ground: '#6a3d78', ink: '#ffffff' },
	slate: { name: 'slate', letter: 'S', ground: '#4a5560', ink: '#ffffff' },
	foam: { name: 'mint', letter: 'M', ground: '#bfe3e0', ink: '#10312f' },
	rope: { name: 'tan', letter: 'T', ground: '#e6d3b1', ink: '#33260d' }
} as const;
export type TagColour = keyof typeof TAG_COLOURS;

/** A colour by its name, or by the word under which it is stored. @returns undefined where there is none of that name */
export function readColour(word: string): TagColour | undefined {
	return (Object.keys(TAG_COLOURS) as TagColour[]).find(
		(stored) => word === stored || word === TAG_COLOURS[stored].name
	);
}

/** The colour of a new tag, in turn. */
export function nextColour(tagsThere: number): TagColour {
	const names = Object.keys(TAG_COLOURS) as TagColour[];
	return names[tagsThere % names.length] as TagColour;
}
