import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Fragment, memo, useLayoutEffect, useState, type ReactNode } from "react";

import { dayOf, sameDay, timeOfDay } from "../../shared/format";
import { receiptOf, type Log, type Receipt } from "../../shared/log";
import type { Unsent } from "../../shared/outbox";
import { textOf } from "../../shared/problem";
import { usePinned } from "../../shared/pinned";
import type { ChatView, EventView } from "../../shared/types";
import { Icons } from "../icons";
import { later } from "../kit/later";
import { Lazily } from "../kit/lazily";
import { isShown, useKinds } from "./happened";
import { changesOf, ScriptLine } from "./script-line";
import type { Upload } from "./store/uploads";
import { owesTranslation, translationsOf } from "./translation";

const UploadLines = later(() => import("./upload-lines"));

interface Props {
  chat: ChatView;
  log: Log;
  unsent: Unsent[];
  uploads?: Upload[];
  meId: string;
  visitorHere: boolean;
  /** Without a connection, what is written waits. */
  connected?: boolean;
  /** Takes a refused message back into the composer. */
  onAnew?: (clientId: string) => void;
  onUploadAgain?: (clientId: string) => void;
  onUploadCancel?: (clientId: string) => void;
  /** Opens what can be done with a message, at an element. */
  onMore?: (event: EventView, at: HTMLElement) => void;
  /** A transcript has more room and starts at the top. */
  wide?: boolean;
  /** The number of an event to which the script is opened. */
  at?: number | undefined;
  /** Shows words with what was searched for marked. */
  mark?: ((text: string) => ReactNode) | undefined;
}

const receiptWords: Record<Receipt | "failed", string> = {
  sent: t`Sent`,
  waiting: t`Waiting for the visitor to return`,
  delivered: t`Delivered, not seen yet`,
  seen: t`Seen`,
  failed: t`Not delivered`,
};

// How many lines are drawn at the least; more come when somebody reads further
// up. Old ones leave many at a time: one for each that comes would move all others.
const drawn = 40;

// Returns from which line on a script is drawn.
function drawnFrom(lines: number): number {
  return Math.max(0, Math.floor((lines - drawn) / drawn) * drawn);
}

/** A conversation as a script: a gutter with who and when, the words beside it. */
export const Script = memo(function Script({
  chat,
  log,
  unsent,
  uploads = [],
  meId,
  visitorHere,
  connected = true,
  onAnew,
  onUploadAgain,
  onUploadCancel,
  onMore,
  wide = false,
  at,
  mark,
}: Props) {
  useKinds();
  const known = new Set(log.events.map((e) => e.clientId));
  const waiting = unsent.filter((m) => !known.has(m.clientId));
  const lines = log.events.filter(isShown);
  const changes = changesOf(log.events);
  const translations = translationsOf(log.events);
  const theirs = translations.size > 0 ? theirsIn(log.events, chat) : "";
  const undelivered = new Set(log.events.map((e) => (e.kind === "not-delivered" ? e.upTo : undefined)));
  const receiptFor = (e: EventView): string => {
    if (undelivered.has(e.number)) return receiptWords.failed;
    const came = receiptOf(e.number, chat.byVisitor, visitorHere || chat.phase === "ended" || !!e.way);
    return e.way && came === "delivered" ? t`Delivered` : receiptWords[came];
  };
  // How far my last words came stands at the end, and only until they are
  // answered: beneath the words it would move all that follows when it goes.
  const last = wide ? undefined : lines.findLast(spoken);
  const unanswered =
    last?.side === "team" && changes.get(last.number)?.how !== "withdrawn" ? last : undefined;
  const grows = `${log.last} ${waiting.length} ${uploads.length}`;
  const { box, onScroll, toEnd, holdStill, reading, below } = usePinned(grows, !wide);
  // Nothing leaves above while somebody reads there.
  const [held, setHeld] = useState(0);
  const from = wide ? 0 : reading ? held : drawnFrom(lines.length);
  useLayoutEffect(() => {
    if (at) box.current?.querySelector(`[data-number="${at}"]`)?.scrollIntoView({ block: "center" });
  }, [box, at]);
  const scrolled = () => {
    onScroll();
    const element = box.current;
    if (element && from > 0 && element.scrollTop < 300) {
      holdStill();
      setHeld(Math.max(0, from - drawn));
    } else if (!reading) {
      setHeld(from);
    }
  };

  return (
    <div className="script-box">
      <div
        className={`script ${wide ? "wide" : ""}`}
        role="log"
        aria-label={t`Conversation with ${chat.name || "visitor"}`}
        tabIndex={0}
        ref={box}
        onScroll={scrolled}
      >
        {lines.slice(from).map((event, i, shown) => (
          <Fragment key={event.number}>
            {newDay(event, shown[i - 1], lines) ? (
              <p className="day">
                <time dateTime={event.at}>{dayOf(event.at)}</time>
              </p>
            ) : null}
            <ScriptLine
              event={event}
              chatName={chat.name}
              startedAt={chat.helper ? "" : chat.startedAt}
              meId={meId}
              mark={mark}
              changed={changes.get(event.number)}
              translation={translations.get(event.number)}
              owed={owesTranslation(chat, event)}
              theirs={theirs}
              marked={event.number === at}
              onMore={onMore}
              receipt={wide && event.side === "team" ? receiptFor(event) : ""}
            />
          </Fragment>
        ))}
        {unanswered ? (
          <p className={undelivered.has(unanswered.number) ? "receipt wrong" : "receipt"}>
            {unanswered === lines.at(-1)
              ? receiptFor(unanswered)
              : t`Last message: ${receiptFor(unanswered).toLowerCase()}`}
          </p>
        ) : null}
        {waiting.map((message) => (
          <div className="say team unsent" key={message.clientId}>
            <div className="who">
              <b>
                <Trans>You</Trans>
              </b>
              <time>{timeOfDay(message.at)}</time>
            </div>
            <div className="words">
              <p dir="auto">{message.text}</p>
              {message.problem ? (
                <span className="mark wrong" role="alert">
                  <Trans>
                    Not sent. {textOf(message.problem).title}. {textOf(message.problem).detail}
                  </Trans>{" "}
                  {onAnew ? (
                    <button className="link" onClick={() => onAnew(message.clientId)}>
                      <Trans>Edit and resend</Trans>
                    </button>
                  ) : null}
                </span>
              ) : (
                <span className="mark">
                  {connected ? t`Sending` : t`Kept; goes out when you are connected`}
                </span>
              )}
            </div>
          </div>
        ))}
        {uploads.length > 0 ? (
          <Lazily>
            <UploadLines uploads={uploads} onAgain={onUploadAgain} onCancel={onUploadCancel} />
          </Lazily>
        ) : null}
      </div>
      {below ? (
        <button className="below" onClick={toEnd}>
          <Trans>New messages below</Trans> <Icons.Down />
        </button>
      ) : null}
    </div>
  );
});

/** The language that the visitor last wrote in, as far as the chat was ever translated. */
function theirsIn(events: readonly EventView[], chat: ChatView): string {
  return chat.translating?.theirs ?? events.findLast((e) => e.translating)?.translating?.theirs ?? "";
}

/** Reports whether a day is told before a line: each new one, and the first when that is not today. */
function newDay(event: EventView, before: EventView | undefined, lines: readonly EventView[]): boolean {
  if (before) return !sameDay(before.at, event.at);
  const last = lines.at(-1);
  return !sameDay(event.at, Date.now()) || (last !== undefined && !sameDay(last.at, event.at));
}

function spoken(e: EventView): boolean {
  return e.kind === "said" || e.kind === "shared";
}
