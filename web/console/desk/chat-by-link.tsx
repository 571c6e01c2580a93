import { t } from "@lingui/core/macro";
import { useEffect } from "react";
import { useNavigate } from "react-router";

import { api, ask } from "../../shared/api";
import { mayRetry, ProblemError, wordsFor } from "../../shared/problem";
import type { ChatView } from "../../shared/types";
import { say } from "../kit/say";
import { nameOf } from "./name-of";
import { useDeskStore, useTeam } from "./provider";
import type { DeskStore } from "./store/desk-store";
import * as lists from "./store/lists";
import { begunToType } from "./store/screen";

/** Goes to the chat that a link to the Desk names; nothing is taken by that. */
export default function ChatByLink({ id }: { id: string }) {
  const store = useDeskStore();
  const navigate = useNavigate();
  const connects = useTeam((s) => s.connects);
  useEffect(() => {
    let turnedElsewhere = false;
    const from = document.activeElement;
    const leave = (path = "/desk") => {
      if (!turnedElsewhere) void navigate(path, { replace: true });
    };
    chatOf(store, id)
      .then((chat) => (turnedElsewhere ? undefined : leadTo(store, chat, from)))
      .then(leave)
      .catch((error: unknown) => {
        if (turnedElsewhere) return;
        const notMine = error instanceof ProblemError && error.problem.code === "not-yours";
        say(notMine ? elsewhere() : wordsFor(error), notMine ? "info" : "error");
        // The address keeps the chat for the next try: when Stoop is there again, or the page is loaded anew.
        if (!mayRetry(error)) leave();
      });
    return () => {
      turnedElsewhere = true;
    };
  }, [store, navigate, id, connects]);
  return null;
}

/** Says why a chat is not to be found here: a push may be followed when it has long been taken. */
const elsewhere = () => t`This chat is not in your line: a colleague or another department has it.`;

/** What is known of a chat here, or else what the server lets me know of it. */
async function chatOf(store: DeskStore, id: string): Promise<ChatView> {
  const known = store.stores.chats.getState().chats.get(id);
  return known ?? (await ask(api.GET("/api/chats/{id}", { params: { path: { id } } }))).chat;
}

/** Leads to where a chat stands; returns the address of another page if it does not stand on the Desk. */
async function leadTo(store: DeskStore, chat: ChatView, from: Element | null): Promise<string | undefined> {
  const { me, departments } = store.stores.team.getState();
  const { chats, watched } = store.stores.chats.getState();
  const here = new Map(chats).set(chat.id, chat);
  const cards = [
    lists.offers(here, me),
    lists.calls(here, me),
    lists.waiting(here, me),
    lists.helped(here, me),
    lists.messages(here, me, departments),
  ].flat();
  const onDesk = chats.has(chat.id) || chat.phase === "active"; // this page may not know of it yet
  if (onDesk && (lists.isMine(chat, me) || watched.has(chat.id))) {
    store.screen.writeTo(chat.id);
  } else if (cards.some((c) => c.id === chat.id)) {
    // Marked as soon as it is drawn. An answer that came late leaves the keyboard to whoever types by now.
    store.screen.leadTo(chat.id, !begunToType(from));
  } else if (me.role !== "operator" && chat.phase === "active" && !chat.message) {
    await store.acts.watch(chat.id);
  } else if (me.role !== "operator" || chat.phase === "ended") {
    return `/transcripts/${chat.id}`;
  } else {
    const closed = chat.phase === "waiting" && departments.some((d) => d.id === chat.departmentId && !d.open);
    say(closed ? t`${nameOf(chat)} waits for ${chat.departmentName}, which is closed now.` : elsewhere());
  }
  return undefined;
}
