import { language } from "../../shared/speak";

/** Returns what a language is called in the one that the console speaks; its tag if it has no name. */
export function languageName(tag: string): string {
  try {
    return new Intl.DisplayNames([language()], { type: "language" }).of(tag) ?? tag;
  } catch {
    return tag;
  }
}
