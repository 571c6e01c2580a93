import { kept } from "../../../shared/storage";
import type { ArticleTitle, HelpView, ReadView } from "../../../shared/types";
import { ask } from "../ask";
import type { PanelStore } from "../store";

/** Where a visitor's answers come from. */
export interface Answers {
  /** What there is to find on the page around. */
  help(): Promise<HelpView>;
  find(words: string): Promise<ArticleTitle[]>;
  read(id: string): Promise<ReadView>;
  helped(id: string, helped: boolean): Promise<unknown>;
}

/** Asks the server, as the visitor and in the language that the panel speaks. */
export function answersOf(store: PanelStore): Answers {
  const to = <Answer>(path: string, more: object = {}) =>
    ask<Answer>(`/widget/${encodeURIComponent(store.key)}/${path}`, {
      token: kept(store.tokenKey) ?? "",
      language: store.state.widget?.language ?? "",
      ...more,
    });
  return {
    help: () => to("help", { page: store.page?.url ?? "" }),
    find: (words) => to("articles", { words }),
    read: (id) => to(`articles/${id}`),
    helped: (id, helped) => to(`articles/${id}/helped`, { helped }),
  };
}
