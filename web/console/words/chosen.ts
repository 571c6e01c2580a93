import { languages, spoken } from "../../shared/languages";
import { language } from "../../shared/speak";
import { keep, kept, storageLasts } from "../../shared/storage";

const keptAs = "stoop.language";

/** Returns the language of this console: that of the address, the one chosen here, or the browser's. */
export function chosenLanguage(): string {
  const asked = new URLSearchParams(location.search).get("language");
  // A link may name a made-up language to look at; it is not kept.
  if (languages.some((l) => l.code === asked)) keep(keptAs, asked);
  return spoken([asked, kept(keptAs), ...navigator.languages]);
}

/**
 * Speaks the language that I chose in another browser, if nothing was chosen in this
 * one: by me, or by the address. Where nothing can be kept it would be read anew
 * without end.
 */
export function adoptLanguage(code: string | undefined): void {
  if (!code || code === language() || kept(keptAs) !== null || !storageLasts()) return;
  if (new URLSearchParams(location.search).has("language")) return;
  chooseLanguage(code);
}

/** Speaks another language from now on. What is typed is kept over the reload. */
export function chooseLanguage(code: string): void {
  keep(keptAs, code);
  location.reload();
}
