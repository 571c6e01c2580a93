// What visitors read in the panel, by key and language, for the server: admins see there
// what they may replace, and in which language something of theirs is missing.
import { readFile, writeFile } from "node:fs/promises";

import { parsePo } from "pofile-ts";

const languages = ["en", "de", "da", "fr", "es"];

/** Writes the texts that have keys of their own. */
export async function usualTexts(path) {
  const all = {};
  for (const language of languages) {
    const texts = {};
    for (const part of ["panel", "parts"]) {
      const file = parsePo(await readFile(`locales/${part}/${language}.po`, "utf8"));
      for (const item of file.items)
        if (item.extractedComments.includes("js-lingui-explicit-id")) texts[item.msgid] = item.msgstr[0];
    }
    all[language] = Object.fromEntries(Object.entries(texts).sort(([a], [b]) => (a < b ? -1 : 1)));
  }
  await writeFile(path, `${JSON.stringify(all, null, 2)}\n`);
}
