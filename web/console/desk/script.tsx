import type { ReactNode } from "react";

import { firstName, timeOfDay } from "../../shared/format";
import { receiptOf, type Log, type Receipt } from "../../shared/log";
import type { Unsent } from "../../shared/outbox";
import { usePinned } from "../../shared/pinned";
import type { ChatView, EventView } from "../../shared/types";
import { Words } from "../../shared/words";
import { Icons } from "../icons";
import { endedWords, happenedWords } from "./happened";

interface Props {
  chat: ChatView;
  log: Log;
  unsent: Unsent[];
  meId: string;
  visitorHere: boolean;
  /** Without a connection, what is written waits. */
  connected?: boolean;
  /** Takes a refused message back into the composer. */
  onAnew?: (clientId: string) => void;
  /** A transcript has more room and starts at the top. */
  wide?: boolean;
  /** Shows words with what was searched for marked. */
  mark?: (text: string) => ReactNode;
}

const receiptWords: Record<Receipt, string> = {
  sent: "Sent",
  waiting: "Waiting for their return",
  delivered: "Delivered, not seen yet",
  seen: "Seen",
};

/** A conversation as a script: a gutter with who and when, the words beside it. */
export function Script({
  chat,
  log,
  unsent,
  meId,
  visitorHere,
  connected = true,
  onAnew,
  wide = false,
  mark,
}: Props) {
  const known = new Set(log.events.map((e) => e.clientId));
  const waiting = unsent.filter((m) => !known.has(m.clientId));
  const lastTeam = log.events.findLast((e) => e.kind === "said" && e.side === "team")?.number;

  const grows = `${log.last} ${waiting.length}`;
  const { box, onScroll, toEnd, below } = usePinned(grows, !wide);

  return (
    <div className="script-box">
      <div
        className={`script ${wide ? "wide" : ""}`}
        role="log"
        aria-label={`Conversation with ${chat.name || "visitor"}`}
        tabIndex={0}
        ref={box}
        onScroll={onScroll}
      >
        {log.events.map((event) => (
          <Line
            key={event.number}
            event={event}
            chat={chat}
            meId={meId}
            mark={mark}
            receipt={
              event.number === lastTeam || (wide && event.side === "team")
                ? receiptWords[receiptOf(event.number, chat.byVisitor, visitorHere || chat.phase === "ended")]
                : ""
            }
          />
        ))}
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
                      Write it anew
                    </button>
                  ) : null}
                </span>
              ) : (
                <span className="mark">{connected ? "Sending" : "Kept, goes out when connected"}</span>
              )}
            </div>
          </div>
        ))}
      </div>
      {below ? (
        <button className="below" onClick={toEnd}>
          New words below <Icons.Down />
        </button>
      ) : null}
    </div>
  );
}

interface LineProps {
  event: EventView;
  chat: ChatView;
  meId: string;
  receipt: string;
  mark: ((text: string) => ReactNode) | undefined;
}

function Line({ event, chat, meId, receipt, mark }: LineProps) {
  const mine = event.side === "team" && event.by === meId;
  switch (event.kind) {
    case "said":
      return (
        <div className={`say ${event.side}`}>
          <div className="who">
            <b>
              <bdi>{mine ? "You" : firstName(event.name)}</bdi>
            </b>
            <time dateTime={event.at}>{timeOfDay(event.at)}</time>
          </div>
          <div className="words">
            <p dir="auto">
              <Words text={event.text ?? ""} mark={mark} />
            </p>
            {receipt ? <span className="mark">{receipt}</span> : null}
          </div>
        </div>
      );
    case "started":
      return (
        <p className="event">
          <Icons.Door />
          <span>
            <bdi>{chat.name || "A visitor"}</bdi> came in{event.page ? ` from ${event.page}` : ""},{" "}
            {timeOfDay(event.at)}
          </span>
        </p>
      );
    case "handed-on":
    case "put-back":
      return (
        <div className={event.text ? "team-note" : ""}>
          <Happened event={event} chat={chat} meId={meId} />
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
      return <Happened event={event} chat={chat} meId={meId} />;
  }
}

/** One line about what happened besides words; nothing for what stands elsewhere. */
function Happened({ event, chat, meId }: { event: EventView; chat: ChatView; meId: string }) {
  const happened = happenedWords(event, chat, meId);
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
