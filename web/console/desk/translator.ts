import { useQuery } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import { language } from "../../shared/speak";

const rarely = 5 * 60_000;

const none = { languages: [] as string[], shownSoon: false };

/** Returns what can be translated; nothing while that is not known, and none if it cannot be. */
export function useTranslator() {
  const ability = useQuery({
    queryKey: ["translator"],
    queryFn: () => ask(api.GET("/api/translator")),
    staleTime: rarely,
  });
  return ability.data ?? (ability.isError ? none : undefined);
}

/** Returns the language that I read, of those that can be translated. */
export function myLanguage(languages: readonly string[]): string {
  return languages.includes(language()) ? language() : (languages[0] ?? "");
}

/** Begins to translate a chat between two languages. */
export async function translate(
  chatId: string,
  theirs: string,
  ours: string,
  guessed: boolean,
): Promise<void> {
  const params = { path: { id: chatId } };
  await ask(api.PUT("/api/chats/{id}/translation", { params, body: { theirs, ours, guessed } }));
}
