/** The languages that people speak to Stoop in. */
export const languages: readonly { code: "en" | "de"; name: string }[] = [
  { code: "en", name: "English" },
  { code: "de", name: "Deutsch" },
] as const;

/**
 * Made-up languages of long accented words, the second from right to left. They
 * prove that nothing is left untranslated, cut off, or on the wrong side. The
 * names are those that Unicode's locale data keeps for this.
 */
export const madeUp: readonly string[] = ["en-XA", "ar-XB"];

/** All languages that there is a catalogue of the console for. */
export const consoles: string[] = [...languages.map((l) => l.code), ...madeUp];

/** The languages that people who visit a site speak. */
export const ofPeople = ["en", "de", "da", "fr", "es"];

/** The languages that the chat speaks to visitors. */
export const visitors: string[] = [...ofPeople, ...madeUp];

/** Returns the language to speak: the first wish that there is a catalogue for, or English. */
export function spoken(
  wishes: readonly (string | null | undefined)[],
  shipped: readonly string[] = consoles,
): string {
  for (const wish of wishes) {
    if (!wish) continue;
    if (shipped.includes(wish)) return wish;
    const base = wish.split("-")[0] ?? "";
    if (shipped.includes(base)) return base;
  }
  return "en";
}

/** Reports whether a language runs from right to left. */
export function runsLeft(language: string): boolean {
  return /^(ar|fa|he|ur)\b/.test(language);
}

/** Returns the locale by which numbers and dates are written. English of no country is Britain's. */
export function localeOf(language: string): string {
  return language === "en" || madeUp.includes(language) ? "en-GB" : language;
}
