import { api, ask } from "../../shared/api";
import { uuid } from "../../shared/uuid";

/** Offers a chat's visitor a page of the site; their tab goes there when they say so. */
export async function offerPage(chatId: string, url: string): Promise<void> {
  const params = { path: { id: chatId } };
  await ask(api.POST("/api/chats/{id}/page", { params, body: { clientId: uuid(), url } }));
}
