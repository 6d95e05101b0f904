/**
 * Questions that read the bytes of mail: a thread of their own answers them. Mail is hostile, and may take long to be read;
 * nothing that parses it runs where sessions are answered.
 */
export const OPENING = ['find', 'readMessage', 'readHtml', 'readAttachment', 'readRaw', 'readOddity'] as const;
export type OpeningName = (typeof OPENING)[number];
