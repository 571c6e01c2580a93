import { Fragment } from "react";

import { firstName, timeOfDay } from "../../shared/format";
import { receiptOf } from "../../shared/log";
import type { Unsent } from "../../shared/outbox";
import { usePinned } from "../../shared/pinned";
import { Words } from "../../shared/words";
import type { EventView } from "../../shared/types";
import type { PanelState, PanelStore } from "./store";
import { texts } from "./texts";
import { Waiting } from "./waiting";

/** The conversation in script style: who and when, then the words; the team's with a rule. */
export function Conversation({ store, state }: { store: PanelStore; state: PanelState }) {
  const { chat, log, unsent } = state;
  const said = log.events.filter((e) => e.kind === "said");
  const ended = log.events.find((e) => e.kind === "ended");
  const lastOwn = said.findLast((e) => e.side === "visitor")?.number;

  const grows = `${log.last} ${unsent.length} ${state.typing} ${chat?.phase}`;
  const { box, onScroll } = usePinned(grows);

  const known = new Set(said.map((e) => e.clientId));
  return (
    <div className="log" role="log" aria-label={texts.log} tabIndex={0} ref={box} onScroll={onScroll}>
      {log.events.map((event) => (
        <Fragment key={event.number}>
          {event.kind === "said" ? (
            <Message
              event={event}
              receipt={
                event.number === lastOwn && chat
                  ? texts.receipts[receiptOf(event.number, chat.byTeam, true)]
                  : ""
              }
            />
          ) : null}
          {eventWords(event, log.events) ? <p className="event">{eventWords(event, log.events)}</p> : null}
        </Fragment>
      ))}
      {unsent
        .filter((m) => !known.has(m.clientId))
        .map((m) => (
          <UnsentMessage key={m.clientId} message={m} onAnew={() => store.writeAnew(m.clientId)} />
        ))}
      {chat?.message && chat.phase !== "ended" ? (
        <p className="event">
          {chat.phase === "waiting" ? texts.message.kept(chat.email) : texts.message.answered}
        </p>
      ) : null}
      {chat?.phase === "waiting" && !chat.message ? (
        <Waiting store={store} state={state} since={waitingSince(log.events, chat.startedAt)} />
      ) : null}
      <p className="typing" aria-live="polite">
        {state.typing ? texts.typing(firstName(state.typing)) : ""}
      </p>
      {ended ? (
        <p className="event">
          {ended.why === "visitor-gone" ? texts.missed : texts.ended(timeOfDay(ended.at))}
        </p>
      ) : null}
    </div>
  );
}

/** Says what happened, as far as it concerns the visitor. */
function eventWords(event: EventView, log: EventView[]): string {
  switch (event.kind) {
    case "taken": {
      const again = log.some((e) => e.kind === "taken" && e.number < event.number);
      return (again ? texts.handedOn : texts.joined)(firstName(event.name));
    }
    case "put-back":
      return texts.putBack;
    case "joined":
      return texts.colleague(firstName(event.to ?? ""));
    case "left":
      return texts.colleagueLeft(firstName(event.to ?? ""));
    case "kept":
      return event.side === "house" ? texts.closedMeanwhile : "";
    default:
      return "";
  }
}

function Message({ event, receipt }: { event: EventView; receipt: string }) {
  const own = event.side === "visitor";
  return (
    <div className={own ? "said own" : "said"}>
      <p className="by">
        <b>{own ? texts.you : firstName(event.name, texts.team)}</b>
        <time dateTime={event.at}>{timeOfDay(event.at)}</time>
        {receipt ? <span className="receipt">{receipt}</span> : null}
      </p>
      <div className="words" dir="auto">
        <Words text={event.text ?? ""} />
      </div>
    </div>
  );
}

function UnsentMessage({ message, onAnew }: { message: Unsent; onAnew: () => void }) {
  return (
    <div className="said own unsent">
      <p className="by">
        <b>{texts.you}</b>
        <time>{timeOfDay(message.at)}</time>
        {message.problem ? null : <span className="receipt">{texts.receipts.sending}</span>}
      </p>
      <div className="words" dir="auto">
        <Words text={message.text} />
      </div>
      {message.problem ? (
        <p className="wrong" role="alert">
          {texts.notSent} {message.problem.title}. {message.problem.detail}{" "}
          <button className="link" onClick={onAnew}>
            {texts.edit}
          </button>
        </p>
      ) : null}
    </div>
  );
}

/** Since when the visitor waits: from the beginning, or since they were put back. */
function waitingSince(log: EventView[], startedAt: string): string {
  return log.findLast((e) => e.kind === "put-back")?.at ?? startedAt;
}
