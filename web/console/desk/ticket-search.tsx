import { t } from "@lingui/core/macro";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import type { TicketRow } from "../../shared/types";
import { say } from "../kit/say";
import { Wrong } from "../kit/states";
import { TicketsFound } from "../tickets/find";

interface Props {
  chatId: string;
  words: string;
  onLinked: () => void;
}

/** Tickets by number, words, contact or order, to link a chat with; without words those of its visitor. */
export function TicketSearch({ chatId, words, onLinked }: Props) {
  const [trouble, setTrouble] = useState<string>();
  const link = (row: TicketRow) => {
    ask(api.PUT("/api/tickets/{id}/chats/{chat}", { params: { path: { id: row.id, chat: chatId } } })).then(
      () => {
        say(t`The chat is linked with ticket ${row.number}`, "success");
        onLinked();
      },
      (error: unknown) => setTrouble(wordsFor(error)),
    );
  };
  return (
    <>
      <TicketsFound words={words} like={chatId} verb={t`Link the chat`} choose={link} />
      <Wrong words={trouble} />
    </>
  );
}
