/**
 * The colours of tags, each with a letter for people who cannot tell colours apart. Ground and ink pass WCAG AA on
 * each other (4.5 to 1; a test computes it) in both themes, as a tag brings its own ground.
 */
export const TAG_COLOURS = {
	harbour: { letter: 'H', ground: '#1d4f7c', ink: '#ffffff' },
	kelp: { letter: 'K', ground: '#2f5d3a', ink: '#ffffff' },
	rust: { letter: 'R', ground: '#8f3a1d', ink: '#ffffff' },
	buoy: { letter: 'B', ground: '#f2c230', ink: '#2b2205' },
	heather: { letter: 'E', ground: '#6a3d78', ink: '#ffffff' },
	slate: { letter: 'S', ground: '#4a5560', ink: '#ffffff' },
	foam: { letter: 'F', ground: '#bfe3e0', ink: '#10312f' },
	rope: { letter: 'O', ground: '#e6d3b1', ink: '#33260d' }
} as const;
export type TagColour = keyof typeof TAG_COLOURS;

/** The colour of a new tag, in turn. */
export function nextColour(tagsThere: number): TagColour {
	const names = Object.keys(TAG_COLOURS) as TagColour[];
	return names[tagsThere % names.length] as TagColour;
}
