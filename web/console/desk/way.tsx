import "./lane-note.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api, ask } from "../../shared/api";
import type { ChatView, WayView } from "../../shared/types";
import { Icons } from "../icons";
import { LaterIcons } from "../icons-later";
import { say } from "../kit/say";
import { usePlaces } from "./provider";

/** Asks the visitor of a chat to go on by another way. */
export async function askToGoOn(chatId: string, kind: string): Promise<void> {
  const body = { kind: kind as "site" | "text" | "email" };
  await ask(api.POST("/api/chats/{id}/go-on", { params: { path: { id: chatId } }, body }));
}

/** What the menu calls asking for a way. */
export function askWords(kind: string): string {
  if (kind === "text") return t`Ask to continue by text message`;
  return kind === "email" ? t`Ask to continue by email` : t`Ask to continue on the site`;
}

/** Says why files are not taken. */
export function sayNoFiles(): void {
  say(t`Text messages carry no files. Ask to continue by email or on the site.`, "error");
}

/** By which way the words of a chat go, and what it carries. */
export function WayLine({ chat, way }: { chat: ChatView; way: WayView }) {
  const place = usePlaces((s) => s.places.get(chat.visitorId));
  const { address = "", line = "" } = way;
  return (
    <div className="where">
      {way.kind === "text" ? <LaterIcons.Phone /> : <Icons.Letter />}
      <span className="cut" title={line}>
        {way.kind === "text" ? (
          <Trans>
            By <b>text message</b>: no files, no typing shown
          </Trans>
        ) : (
          <Trans>
            By <b>email</b> to <bdi>{address}</bdi>, files too
          </Trans>
        )}
      </span>
      {place?.here ? (
        <span className="of-visitor">
          <Trans>also on the site now</Trans>
        </span>
      ) : null}
    </div>
  );
}

/** Says that the visitor was asked to go on by another way, or wants no more text messages. */
export function WayBar({ chat }: { chat: ChatView }) {
  if (chat.way?.stopped)
    return (
      <div className="lane-note" role="status">
        <Icons.Warning />
        <span className="what">
          <Trans>They sent STOP. Nothing goes by text message until they send START.</Trans>
        </span>
      </div>
    );
  return (
    <div className="lane-note" role="status">
      {chat.askedWay === "text" ? <LaterIcons.Phone /> : <Icons.Letter />}
      <span className="what">
        {chat.askedWay === "text" ? (
          <Trans>Asked to continue by text message. No answer yet.</Trans>
        ) : chat.askedWay === "email" ? (
          <Trans>Asked to continue by email. No answer yet.</Trans>
        ) : (
          <Trans>Asked to continue on the site. No answer yet.</Trans>
        )}
      </span>
    </div>
  );
}

// How long nothing was typed until the length is asked for, in milliseconds.
const measuredAfter = 150;

/** How long words are as a text message; the server counts, as it does when it sends them. */
export function TextLength({ text }: { text: string }) {
  const [settled, settle] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => settle(text), measuredAfter);
    return () => clearTimeout(timer);
  }, [text]);
  const { data } = useQuery({
    queryKey: ["text-length", settled],
    queryFn: () => ask(api.POST("/api/channels/measure", { body: { text: settled } })),
    placeholderData: (before) => before,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  if (!data) return null;
  const { parts, most, left, because } = data;
  const over = parts > most;
  return (
    <span className={`left ${over ? "over" : ""}`} role={over ? "status" : undefined}>
      {over
        ? t`${parts} text messages; ${most} at the most`
        : [
            parts > 1 ? plural(parts, { one: "# text message", other: "# text messages" }) : "",
            plural(left, { one: "# character left", other: "# characters left" }),
            because ? t`70 each because of ${because}` : "",
          ]
            .filter(Boolean)
            .join(" · ")}
    </span>
  );
}
