import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import { useMe } from "../desk/provider";
import { Script } from "../desk/script";
import { Button } from "../kit/button";
import { LoadTrouble } from "../kit/states";

/** A chat that belongs to a ticket, to be read in the place of the ticket's own script. */
export function ChatBeside({
  ticketId,
  chatId,
  close,
}: {
  ticketId: string;
  chatId: string;
  close: () => void;
}) {
  const me = useMe();
  const found = useQuery({
    queryKey: ["ticket-chat", ticketId, chatId],
    queryFn: () =>
      ask(api.GET("/api/tickets/{id}/chats/{chat}", { params: { path: { id: ticketId, chat: chatId } } })),
  });
  return (
    <section className="chat-beside" aria-label={t`The chat`}>
      <header>
        <b>
          <Trans>The chat</Trans>
        </b>
        <Button variant="outlined" onClick={close}>
          <Trans>Back to the ticket</Trans>
        </Button>
      </header>
      {found.isError ? <LoadTrouble error={found.error} again={() => void found.refetch()} /> : null}
      {found.data ? (
        <Script
          chat={found.data.chat}
          log={{ events: found.data.events, last: found.data.chat.last }}
          unsent={[]}
          meId={me.id}
          visitorHere
          wide
        />
      ) : null}
    </section>
  );
}
