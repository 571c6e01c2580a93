import { queryOptions, useQuery } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import type { AboutView, ChatView } from "../../shared/types";

/** Asks for what is known of the person behind a chat. */
export function aboutQuery(chat: ChatView) {
  return queryOptions({
    queryKey: ["about", chat.id, chat.name, chat.email, chat.phone],
    queryFn: () => ask(api.GET("/api/chats/{id}/about", { params: { path: { id: chat.id } } })),
    // What is being edited stays on screen while a colleague's change is read.
    placeholderData: (before: AboutView | undefined, query) =>
      query?.queryKey[1] === chat.id ? before : undefined,
    staleTime: 15_000,
  });
}

/** Returns what is known of the person behind a chat. */
export function useAbout(chat: ChatView) {
  return useQuery(aboutQuery(chat));
}
