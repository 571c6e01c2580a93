import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useRef, useState } from "react";

import { api, ask } from "../../shared/api";
import { money } from "../../shared/money";
import { wordsFor } from "../../shared/problem";
import type { CardView } from "../../shared/types";
import { uuid } from "../../shared/uuid";
import { Button } from "../kit/button";

interface Props {
  chatId: string;
  cards: readonly CardView[] | undefined;
  trouble: string;
  onSent: () => void;
}

/** What the booking system has that fits, each to be sent as a card. */
export function Cards({ chatId, cards, trouble, onSent }: Props) {
  // Pressed again after a failure it is the same card, sent once.
  const ids = useRef(new Map<string, string>());
  const [sending, setSending] = useState("");
  const [refused, setRefused] = useState("");
  const send = (card: CardView) => {
    const name = `${card.kind}/${card.id}`;
    if (sending) return;
    const clientId = ids.current.get(name) ?? uuid();
    ids.current.set(name, clientId);
    setSending(name);
    setRefused("");
    ask(
      api.POST("/api/chats/{id}/cards", {
        params: { path: { id: chatId } },
        body: { clientId, kind: card.kind, cardId: card.id },
      }),
    )
      .then(onSent, (error: unknown) => setRefused(wordsFor(error)))
      .finally(() => setSending(""));
  };
  const said = refused || trouble;
  return (
    <>
      <ul aria-label={t`From the booking system`} aria-busy={cards === undefined && !trouble}>
        {(cards ?? []).map((c) => (
          <li key={`${c.kind}/${c.id}`}>
            <b dir="auto">{c.title}</b>
            {c.price ? <span className="price">{money(c.price)}</span> : null}
            {(c.lines ?? []).map((line, i) => (
              <span key={i} className="excerpt" dir="auto">
                {line}
              </span>
            ))}
            <span className="acts">
              <Button disabled={sending !== ""} onClick={() => send(c)}>
                <Trans>Send card</Trans>
              </Button>
            </span>
          </li>
        ))}
      </ul>
      {said ? (
        <p className="wrong" role="alert">
          {said}
        </p>
      ) : null}
      {cards?.length === 0 && !said ? (
        <p className="nothing">
          <Trans>No matches.</Trans>
        </p>
      ) : null}
    </>
  );
}
