import { locale } from "../../../shared/speak";

/** Names a language in the one that is spoken. */
export function languageName(code: string): string {
  return new Intl.DisplayNames([locale()], { type: "language" }).of(code) ?? code;
}
