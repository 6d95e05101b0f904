function luminance(colour: string): number {
	const channel = (at: number) => {
		const value = Number.parseInt(colour.slice(at, at + 2), 16) / 255;
		return value <= 0.03928 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
	};
	return 0.2126 * channel(1) + 0.7152 * channel(3) + 0.0722 * channel(5);
}

/** Contrast of two colours, 1 to 21 (WCAG 2.2, relative luminance). */
export function contrast(a: string, b: string): number {
	const [light = 0, dark = 0] = [luminance(a), luminance(b)].sort((x, y) => y - x);
	return (light + 0.05) / (dark + 0.05);
}
