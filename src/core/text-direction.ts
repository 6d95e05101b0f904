/* Scripts written from right to left (Unicode Standard Annex #9: letters of the classes R and AL). */
const RIGHT_TO_LEFT = /[\p{Script=Hebrew}\p{Script=Arabic}\p{Script=Syriac}\p{Script=Thaana}\p{Script=Nko}]/u;

/** Whether a text is written from right to left: its first letter decides (UAX #9, rules P2 and P3). */
export const isRightToLeft = (text: string): boolean => {
	const first = /\p{L}/u.exec(text)?.[0];
	return first !== undefined && RIGHT_TO_LEFT.test(first);
};
