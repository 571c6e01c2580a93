const rightToLeft = /[\u0590-\u08ff\ufb1d-\ufdff\ufe70-\ufefc]/;

/**
 * Keeps what people wrote apart within a sentence of ours: words that run from
 * right to left would otherwise take the punctuation and numbers beside them
 * along. The marks are Unicode's FSI and PDI (UAX #9).
 */
export const apart = (words: string): string => (rightToLeft.test(words) ? `\u2068${words}\u2069` : words);
