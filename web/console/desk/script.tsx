import { Fragment, memo, useLayoutEffect, useState, type ReactNode } from "react";

import { dayOf, firstName, sameDay, timeOfDay } from "../../shared/format";
import { receiptOf, type Log, type Receipt } from "../../shared/log";
import type { Unsent } from "../../shared/outbox";
import { usePinned } from "../../shared/pinned";
import type { ChatView, EventView } from "../../shared/types";
import { Words } from "../../shared/words";
import { Icons } from "../icons";
import { LinearProgress } from "../kit/progress";
import { FileShown } from "./file-shown";
import { endedWords, happenedWords } from "./happened";
import type { Upload } from "./store/uploads";

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

const receiptWords: Record<Receipt, string> = {
  sent: "Sent",
  waiting: "Waiting for the visitor to return",
  delivered: "Delivered, not seen yet",
  seen: "Seen",
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
  const known = new Set(log.events.map((e) => e.clientId));
  const waiting = unsent.filter((m) => !known.has(m.clientId));
  const lines = log.events.filter((e) => !beside.has(e.kind));
  const changes = changesOf(log.events);
  const receiptFor = (e: EventView) =>
    receiptOf(e.number, chat.byVisitor, visitorHere || chat.phase === "ended");
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
        aria-label={`Conversation with ${chat.name || "visitor"}`}
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
            <Line
              event={event}
              chatName={chat.name}
              startedAt={chat.startedAt}
              meId={meId}
              mark={mark}
              changed={changes.get(event.number)}
              marked={event.number === at}
              onMore={onMore}
              receipt={wide && event.side === "team" ? receiptWords[receiptFor(event)] : ""}
            />
          </Fragment>
        ))}
        {unanswered ? (
          <p className="receipt">
            {unanswered === lines.at(-1)
              ? receiptWords[receiptFor(unanswered)]
              : `Last message: ${receiptWords[receiptFor(unanswered)].toLowerCase()}`}
          </p>
        ) : null}
        {waiting.map((message) => (
          <div className="say team unsent" key={message.clientId}>
            <div className="who">
              <b>You</b>
              <time>{timeOfDay(message.at)}</time>
            </div>
            <div className="words">
              <p dir="auto">{message.text}</p>
              {message.problem ? (
                <span className="mark wrong" role="alert">
                  Not sent. {message.problem.title}. {message.problem.detail}{" "}
                  {onAnew ? (
                    <button className="link" onClick={() => onAnew(message.clientId)}>
                      Edit and resend
                    </button>
                  ) : null}
                </span>
              ) : (
                <span className="mark">
                  {connected ? "Sending" : "Kept; goes out when you are connected"}
                </span>
              )}
            </div>
          </div>
        ))}
        {uploads.map((u) => (
          <div className="say team unsent" key={u.clientId}>
            <div className="who">
              <b>You</b>
            </div>
            <div className="words upload">
              <span className="file-line">
                <Icons.File /> <bdi className="cut">{u.name}</bdi>
              </span>
              {u.trouble ? (
                <span className="mark wrong" role="alert">
                  Not sent. {u.trouble}{" "}
                  <button className="link" onClick={() => onUploadAgain?.(u.clientId)}>
                    Try again
                  </button>
                </span>
              ) : (
                <LinearProgress
                  variant="determinate"
                  value={u.share * 100}
                  aria-label={`Sending ${u.name}`}
                />
              )}
              <button className="link" onClick={() => onUploadCancel?.(u.clientId)}>
                {u.trouble ? "Discard" : "Cancel"}
              </button>
            </div>
          </div>
        ))}
      </div>
      {below ? (
        <button className="below" onClick={toEnd}>
          New messages below <Icons.Down />
        </button>
      ) : null}
    </div>
  );
});

/** Kinds of events that stand beside others rather than in a line of their own. */
const beside = new Set<EventView["kind"]>([
  "delivered",
  "seen",
  "inside",
  "corrected",
  "withdrawn",
  "refused",
  "set-aside",
  "picked-up",
]);

/** Reports whether a day is told before a line: each new one, and the first when that is not today. */
function newDay(event: EventView, before: EventView | undefined, lines: readonly EventView[]): boolean {
  if (before) return !sameDay(before.at, event.at);
  const last = lines.at(-1);
  return !sameDay(event.at, Date.now()) || (last !== undefined && !sameDay(last.at, event.at));
}

function spoken(e: EventView): boolean {
  return e.kind === "said" || e.kind === "shared";
}

/** What became of a message later. */
export interface Changed {
  text?: string;
  at: string;
  how: "corrected" | "withdrawn" | "refused";
}

/** Finds what was corrected, withdrawn or refused, by number; the latest counts. */
export function changesOf(events: readonly EventView[]): Map<number, Changed> {
  const changes = new Map<number, Changed>();
  for (const e of events) {
    if ((e.kind === "corrected" || e.kind === "withdrawn" || e.kind === "refused") && e.upTo) {
      changes.set(e.upTo, { at: e.at, how: e.kind, ...(e.text ? { text: e.text } : {}) });
    }
  }
  return changes;
}

interface LineProps {
  event: EventView;
  chatName: string;
  startedAt: string;
  meId: string;
  receipt: string;
  changed: Changed | undefined;
  marked: boolean;
  mark: ((text: string) => ReactNode) | undefined;
  onMore: ((event: EventView, at: HTMLElement) => void) | undefined;
}

const Line = memo(
  function Line(props: LineProps) {
    const { event, chatName, startedAt, meId, receipt, changed, mark } = props;
    const mine = event.side === "team" && event.by === meId;
    switch (event.kind) {
      case "said":
      case "shared":
        return (
          <div className={`say ${event.side} ${props.marked ? "marked" : ""}`} data-number={event.number}>
            <Who event={event} mine={mine} />
            <div className="words">
              <Spoken event={event} changed={changed} mark={mark} />
              {changed ? <span className="mark">{changedWords(changed, mine)}</span> : null}
              {receipt && changed?.how !== "withdrawn" ? <span className="mark">{receipt}</span> : null}
            </div>
            <More {...props} />
          </div>
        );
      case "noted":
      case "whispered":
        return (
          <div className={`say note ${props.marked ? "marked" : ""}`} data-number={event.number}>
            <Who event={event} mine={mine} />
            <div className="words">
              <span className="to-team">
                {event.kind === "noted" ? <Icons.Note /> : <Icons.Ear />}
                {event.kind === "noted" ? "Note to team" : "Whisper; the visitor does not see it"}
              </span>
              <p dir="auto">
                <Words text={event.text ?? ""} mark={mark} />
              </p>
            </div>
            <More {...props} />
          </div>
        );
      case "started":
        return (
          <p className="event">
            <Icons.Door />
            <span>
              <bdi>{chatName || "A visitor"}</bdi> started a chat{event.page ? ` on ${event.page}` : ""},{" "}
              {timeOfDay(event.at)}
            </span>
          </p>
        );
      case "handed-on":
      case "put-back":
      case "called":
        return (
          <div className={event.text ? "team-note" : ""}>
            <Happened event={event} startedAt={startedAt} meId={meId} />
            {event.text ? (
              <p className="note-words" dir="auto">
                <b>Note to team</b> {event.text}
              </p>
            ) : null}
          </div>
        );
      case "ended":
        return (
          <p className="event">
            <Icons.Door />
            <span>
              {endedWords(event, mine)}, {timeOfDay(event.at)}
            </span>
          </p>
        );
      default:
        return <Happened event={event} startedAt={startedAt} meId={meId} />;
    }
  },
  (a, b) =>
    a.event === b.event &&
    a.receipt === b.receipt &&
    a.chatName === b.chatName &&
    a.marked === b.marked &&
    a.mark === b.mark &&
    a.onMore === b.onMore &&
    a.changed?.at === b.changed?.at &&
    a.changed?.text === b.changed?.text,
);

// As many letters as the column beside the words holds.
const nameLength = 9;

// A long name is cut here rather than by style: hundreds of clips slow each frame.
function shortened(name: string): string {
  const letters = [...name];
  return letters.length > nameLength ? `${letters.slice(0, nameLength - 2).join("")}…` : name;
}

function Who({ event, mine }: { event: EventView; mine: boolean }) {
  return (
    <div className="who">
      <b>
        <bdi title={event.name}>{mine ? "You" : shortened(firstName(event.name))}</bdi>
      </b>
      <time dateTime={event.at}>{timeOfDay(event.at)}</time>
    </div>
  );
}

function Spoken({ event, changed, mark }: Pick<LineProps, "event" | "changed" | "mark">) {
  if (changed?.how === "withdrawn") {
    // What a visitor withdrew is nobody's any more; colleagues see what the team took back.
    const was = event.side === "team" ? event.text || event.file?.name : "";
    return <p dir="auto">{was ? <s>{was}</s> : <i>Message withdrawn</i>}</p>;
  }
  if (event.kind === "shared")
    return event.file ? <FileShown file={event.file} /> : <i>This file is no longer available</i>;
  return (
    <>
      {changed?.text && event.text !== changed.text ? (
        <p dir="auto" className="was">
          <s>{event.text}</s>
        </p>
      ) : null}
      <p dir="auto">
        <Words text={changed?.text ?? event.text ?? ""} mark={mark} />
      </p>
    </>
  );
}

function changedWords(changed: Changed, mine: boolean): string {
  switch (changed.how) {
    case "corrected":
      return `Corrected ${timeOfDay(changed.at)}`;
    case "withdrawn":
      return `${mine ? "You withdrew this" : "Withdrawn"} ${timeOfDay(changed.at)}`;
    default:
      return `The visitor declined this file, ${timeOfDay(changed.at)}`;
  }
}

/** Opens what can be done with a message; it keeps its room, so that nothing moves when it shows. */
function More({ event, onMore, changed }: LineProps) {
  if (!onMore || changed?.how === "withdrawn") return null;
  return (
    <button
      type="button"
      className="more"
      aria-label={`More for the message of ${timeOfDay(event.at)}`}
      onClick={(e) => onMore(event, e.currentTarget)}
    >
      <Icons.More />
    </button>
  );
}

/** One line about what happened besides words; nothing for what stands elsewhere. */
function Happened({ event, startedAt, meId }: { event: EventView; startedAt: string; meId: string }) {
  const happened = happenedWords(event, startedAt, meId);
  if (!happened) return null;
  const Icon = Icons[happened.icon];
  return (
    <p className="event">
      <Icon />
      <span>
        {happened.words}, {timeOfDay(event.at)}
      </span>
    </p>
  );
}
