import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useCallback } from "react";

import { api, ask } from "../../shared/api";
import { clock, dayAndTime, timeOfDay } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import { outcomeWords } from "../desk/outcome-words";
import { useMe } from "../desk/provider";
import { endingWords, ratingWords } from "../words/codes";
import { whyHere } from "../desk/reasons";
import { Script } from "../desk/script";
import type { Term } from "../../shared/types";
import { MarkWords } from "./mark-words";
import { PathThen } from "./path-then";
import { Take } from "./take";

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
  const from = Date.parse(chat.startedAt);
  const since = (at: string | undefined) => (at ? clock(Date.parse(at) - from) : t`never`);
  const figures = [
    { name: t`Waited`, value: chat.takenAt ? since(chat.takenAt) : since(chat.endedAt) },
    { name: t`First reply`, value: since(chat.repliedAt) },
    { name: t`Lasted`, value: since(chat.endedAt) },
    { name: t`Operator`, value: chat.ownerName ?? t`nobody` },
    { name: t`Department`, value: chat.departmentName || t`none` },
    {
      name: t`Handed on`,
      value: plural(chat.handOns, { 0: "never", one: "once", other: "# times" }),
    },
    { name: t`Ended`, value: chat.ending ? endingWords(chat.ending) : t`not yet` },
    { name: t`Outcome`, value: outcomeWords(chat) || t`none` },
    { name: t`Rating`, value: chat.feedback ? ratingWords(chat.feedback.rating) : t`none` },
    { name: t`Tags`, value: chat.tags.join(", ") || t`none` },
  ];
  const why = whyHere(events);
  return (
    <section className="reader" aria-label={t`Transcript of ${chat.name || t`a visitor`}`}>
      <header>
        <div className="head">
          <h2>
            <bdi>{chat.name || t`Visitor`}</bdi>
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
        <dl>
          {figures.map((f) => (
            <div key={f.name}>
              <dt>{f.name}</dt>
              <dd dir="auto">{f.value}</dd>
            </div>
          ))}
        </dl>
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
