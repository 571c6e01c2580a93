import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useCallback } from "react";

import { api, ask } from "../../shared/api";
import { dayAndTime, timeOfDay } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import { useMe } from "../desk/provider";
import { whyHere } from "../desk/reasons";
import { Script } from "../desk/script";
import type { Term } from "../../shared/types";
import { AlongKept } from "./along-kept";
import { Figures } from "./figures";
import { MarkWords } from "./mark-words";
import { PathThen } from "./path-then";
import { Take } from "./take";
import { nameOf } from "../desk/name-of";

/** Shows one transcript with its measures. */
export function Reader({ id, terms, at }: { id: string; terms: readonly Term[]; at?: number | undefined }) {
  const me = useMe();
  const script = useQuery({
    queryKey: ["script", id],
    queryFn: () => ask(api.GET("/api/chats/{id}", { params: { path: { id } } })),
  });
  const mark = useCallback((text: string) => <MarkWords text={text} terms={terms} />, [terms]);
  if (script.isError) {
    return (
      <section className="reader none" role="alert">
        <p>{wordsFor(script.error)}</p>
      </section>
    );
  }
  if (!script.data) return <section className="reader" aria-busy="true" />;
  const { chat, events } = script.data;
  const why = whyHere(events);
  return (
    <section className="reader" aria-label={t`Transcript of ${chat.name || t`a visitor`}`}>
      <header>
        <div className="head">
          <h2>
            <bdi>{nameOf(chat)}</bdi>
          </h2>
          <Take chat={chat} />
        </div>
        <p className="meta">
          {chat.endedAt
            ? t`${dayAndTime(chat.startedAt)} to ${timeOfDay(chat.endedAt)}`
            : dayAndTime(chat.startedAt)}
          {" · "}
          {chat.email || t`no email`}
        </p>
        <Figures chat={chat} />
        {chat.summary ? (
          <p className="why">
            <b>
              <Trans>Summary</Trans>
            </b>{" "}
            <bdi>{chat.summary}</bdi>
          </p>
        ) : null}
        {chat.feedback?.words ? (
          <p className="why">
            <b>
              <Trans>Visitor’s words</Trans>
            </b>{" "}
            <bdi>{chat.feedback.words}</bdi>
          </p>
        ) : null}
        {why.length > 0 ? (
          <p className="why">
            <b>
              <Trans>Why here</Trans>
            </b>{" "}
            {why.join(" ")}
          </p>
        ) : null}
        <AlongKept chatId={chat.id} events={events} />
        <PathThen chat={chat} />
      </header>
      <Script
        chat={chat}
        log={{ events, last: chat.last }}
        unsent={[]}
        meId={me.id}
        visitorHere
        wide
        at={at}
        mark={terms.length > 0 ? mark : undefined}
      />
    </section>
  );
}
