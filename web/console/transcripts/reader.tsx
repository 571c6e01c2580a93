import { useQuery } from "@tanstack/react-query";
import { useCallback } from "react";

import { api, ask } from "../../shared/api";
import { clock, dayAndTime, timeOfDay } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import { outcomeWords } from "../desk/outcome-words";
import { useMe } from "../desk/provider";
import { whyHere } from "../desk/reasons";
import { Script } from "../desk/script";
import { MarkWords } from "./mark-words";

/** Shows one transcript with its measures. */
export function Reader({ id, words, at }: { id: string; words: string; at?: number | undefined }) {
  const me = useMe();
  const script = useQuery({
    queryKey: ["script", id],
    queryFn: () => ask(api.GET("/api/chats/{id}", { params: { path: { id } } })),
  });
  const mark = useCallback((text: string) => <MarkWords text={text} words={words} />, [words]);
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
  const since = (at: string | undefined) => (at ? clock(Date.parse(at) - from) : "never");
  const figures = [
    { name: "Waited", value: chat.takenAt ? since(chat.takenAt) : since(chat.endedAt) },
    { name: "First reply", value: since(chat.repliedAt) },
    { name: "Lasted", value: since(chat.endedAt) },
    { name: "Operator", value: chat.ownerName ?? "nobody" },
    { name: "Department", value: chat.departmentName || "none" },
    {
      name: "Handed on",
      value: chat.handOns === 0 ? "never" : chat.handOns === 1 ? "once" : `${chat.handOns} times`,
    },
    { name: "Ended", value: chat.ending ?? "not yet" },
    { name: "Outcome", value: outcomeWords(chat) || "none" },
    { name: "Tags", value: chat.tags.join(", ") || "none" },
  ];
  const why = whyHere(events);
  return (
    <section className="reader" aria-label={`Transcript of ${chat.name || "a visitor"}`}>
      <header>
        <h2>
          <bdi>{chat.name || "Visitor"}</bdi>
        </h2>
        <p className="meta">
          {dayAndTime(chat.startedAt)}
          {chat.endedAt ? ` to ${timeOfDay(chat.endedAt)}` : ""} · {chat.email || "no email"}
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
            <b>Summary</b> <bdi>{chat.summary}</bdi>
          </p>
        ) : null}
        {why.length > 0 ? (
          <p className="why">
            <b>Why here</b> {why.join(" ")}
          </p>
        ) : null}
      </header>
      <Script
        chat={chat}
        log={{ events, last: chat.last }}
        unsent={[]}
        meId={me.id}
        visitorHere
        wide
        at={at}
        mark={words ? mark : undefined}
      />
    </section>
  );
}
