import { Fragment, Suspense, useEffect, useState } from "react";

import { firstName, timeOfDay } from "../../shared/format";
import { receiptOf } from "../../shared/log";
import type { Unsent } from "../../shared/outbox";
import { usePinned } from "../../shared/pinned";
import { wordsFor, textOf } from "../../shared/problem";
import { fileSize } from "../../shared/upload";
import { Words } from "../../shared/words";
import type { EventView } from "../../shared/types";
import { confide } from "./host";
import type { PanelState } from "./state";
import type { PanelStore } from "./store";
import { Card, Original, PageOffer, TranslationBegan } from "./parts";
import { talkTexts } from "./talk-texts";
import { AutomaticWords, helperText, Helping } from "./helping";
import { Waiting } from "./waiting";

/** The conversation in script style: who and when, then the words; the team's with a rule. */
export function Conversation({ store, state }: { store: PanelStore; state: PanelState }) {
  const { chat, log, unsent } = state;
  const said = log.events.filter((e) => e.kind === "said" || e.kind === "shared");
  const changes = new Map(
    log.events.filter((e) => e.upTo && changing.includes(e.kind)).map((e) => [e.upTo, e]),
  );
  const mayChange = (e: EventView) =>
    chat?.phase !== "ended" && e.changeableUntil !== undefined && store.now() < Date.parse(e.changeableUntil);
  const ended = log.events.find((e) => e.kind === "ended");
  const lastOwn = said.findLast((e) => e.side === "visitor")?.number;

  const grows = `${log.last} ${unsent.length} ${state.typing} ${chat?.phase} ${state.uploads.length}`;
  const { box, onScroll } = usePinned(grows);

  // What can be corrected can be so for a minute; then the words for it go.
  const [, setLooked] = useState(0);
  useEffect(() => {
    const until = said.findLast((e) => e.changeableUntil)?.changeableUntil;
    if (!until) return;
    const timer = setTimeout(() => setLooked(Date.now()), Date.parse(until) - store.now() + 500);
    return () => clearTimeout(timer);
  }, [lastOwn, store]); // eslint-disable-line react-hooks/exhaustive-deps -- the last own words say it

  const inBasket = new Set(log.events.filter((e) => e.used === "basket").map((e) => e.upTo));
  const known = new Set(said.map((e) => e.clientId));
  return (
    <div className="log" role="log" aria-label={talkTexts.log} tabIndex={0} ref={box} onScroll={onScroll}>
      {log.events.map((event) => (
        <Fragment key={event.number}>
          {event.kind === "said" || event.kind === "shared" ? (
            <Message
              store={store}
              event={event}
              change={changes.get(event.number)}
              mayChange={mayChange(event)}
              inBasket={inBasket.has(event.number)}
              receipt={
                event.number === lastOwn && chat
                  ? talkTexts.receipts[receiptOf(event.number, chat.byTeam, true)]
                  : ""
              }
            />
          ) : null}
          {event.kind === "automatic" || event.kind === "helper-said" ? (
            <AutomaticWords event={event} state={state} />
          ) : null}
          {event.kind === "page-offered" ? (
            <Suspense>
              <PageOffer store={store} state={state} event={event} />
            </Suspense>
          ) : null}
          {event.kind === "translation-began" ? (
            <Suspense>
              <TranslationBegan />
            </Suspense>
          ) : null}
          {event.invitation ? (
            <div className="said">
              <p className="by">
                <b>{event.invitation.name}</b>
              </p>
              <p className="words" dir="auto">
                {event.invitation.text}
              </p>
            </div>
          ) : null}
          {eventWords(event, log.events, state) ? (
            <p className="event">{eventWords(event, log.events, state)}</p>
          ) : null}
        </Fragment>
      ))}
      {unsent
        .filter((m) => !known.has(m.clientId))
        .map((m) => (
          <UnsentMessage key={m.clientId} message={m} onAnew={() => store.writeAnew(m.clientId)} />
        ))}
      {state.uploads.map((u) => (
        <div className="said own unsent" key={u.clientId}>
          <div className="words" dir="auto">
            {u.name}
          </div>
          {u.trouble ? (
            <p className="wrong" role="alert">
              {talkTexts.notSent} {u.trouble}{" "}
              <button className="link" onClick={() => store.uploads?.again(u.clientId)}>
                {talkTexts.file.again}
              </button>
            </p>
          ) : (
            <progress value={u.share} aria-label={talkTexts.file.sending(u.name)} />
          )}{" "}
          <button className="link" onClick={() => store.uploads?.cancel(u.clientId)}>
            {u.trouble ? talkTexts.file.leave : talkTexts.file.cancel}
          </button>
        </div>
      ))}
      {chat?.message && chat.phase !== "ended" ? (
        <p className="event">
          {chat.phase === "waiting" ? talkTexts.message.kept(chat.email) : talkTexts.message.answered}
        </p>
      ) : null}
      {chat?.helper ? <Helping store={store} state={state} /> : null}
      {chat?.phase === "waiting" && !chat.message && (!chat.helper || chat.beside) ? (
        <Waiting store={store} state={state} since={waitingSince(log.events, chat.startedAt)} />
      ) : null}
      <p className="typing" aria-live="polite">
        {state.typing ? talkTexts.typing(firstName(state.typing)) : ""}
      </p>
      {ended ? (
        <p className="event">
          {ended.why === "visitor-gone"
            ? talkTexts.missed
            : ended.why === "silent"
              ? talkTexts.silent
              : talkTexts.ended(timeOfDay(ended.at))}
        </p>
      ) : null}
    </div>
  );
}

/** Says what happened, as far as it concerns the visitor. */
function eventWords(event: EventView, log: EventView[], state: PanelState): string {
  switch (event.kind) {
    case "taken": {
      const again = log.some((e) => e.kind === "taken" && e.number < event.number);
      return (again ? talkTexts.handedOn : talkTexts.joined)(firstName(event.name));
    }
    case "helper-began":
      return event.side === "team" ? helperText(state, "again") : "";
    case "helper-left":
      return event.side === "visitor" ? helperText(state, "asked") : helperText(state, "left");
    case "put-back":
      return talkTexts.putBack;
    case "joined":
      return talkTexts.colleague(firstName(event.to ?? ""));
    case "left":
      return talkTexts.colleagueLeft(firstName(event.to ?? ""));
    case "reminded":
      return log.some((e) => e.number > event.number && (e.kind === "said" || e.kind === "ended"))
        ? ""
        : talkTexts.reminded;
    case "kept":
      return event.side === "house" ? talkTexts.closedMeanwhile : "";
    default:
      return "";
  }
}

const changing: EventView["kind"][] = ["corrected", "withdrawn", "refused"];

interface MessageProps {
  store: PanelStore;
  event: EventView;
  receipt: string;
  /** What became of it later. */
  change: EventView | undefined;
  mayChange: boolean;
  /** It is a card that the visitor has put in the basket. */
  inBasket: boolean;
}

function Message({ store, event, receipt, change, mayChange, inBasket }: MessageProps) {
  const own = event.side === "visitor";
  const [editing, setEditing] = useState<string>();
  const [trouble, setTrouble] = useState("");
  const gone = change?.kind === "withdrawn" || change?.kind === "refused";
  const final = change?.kind === "corrected" ? change : event;
  const text = final.text ?? "";
  const translation = own ? undefined : final.translation;
  const run = (how: "correct" | "withdraw" | "refuse", words?: string) => {
    setEditing(undefined);
    store.change(how, event.number, words === undefined ? {} : { text: words }).then(
      () => setTrouble(""),
      (error: unknown) => setTrouble(wordsFor(error)),
    );
  };
  const said = (
    <>
      <div className="words" dir="auto" lang={translation?.language}>
        <Words text={translation?.text ?? text} />
      </div>
      {translation ? (
        <Suspense>
          <Original text={text} />
        </Suspense>
      ) : null}
    </>
  );
  return (
    <div className={own ? "said own" : "said"}>
      <p className="by">
        <b>{own ? talkTexts.you : firstName(event.name, talkTexts.team)}</b>
        <time dateTime={event.at}>{timeOfDay(event.at)}</time>
        {mayChange && !gone && editing === undefined ? (
          <span className="acts">
            {event.kind === "said" ? (
              <button className="link" onClick={() => setEditing(text)}>
                {talkTexts.change.correct}
              </button>
            ) : null}{" "}
            <button className="link" onClick={() => run("withdraw")}>
              {talkTexts.change.withdraw}
            </button>
          </span>
        ) : null}
        {receipt && !gone ? <span className="receipt">{receipt}</span> : null}
        {change && change.kind !== "refused" ? (
          <span className="receipt">{gone ? talkTexts.change.withdrawn : talkTexts.change.corrected}</span>
        ) : null}
      </p>
      {editing !== undefined ? (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            if (editing.trim()) run("correct", editing);
          }}
        >
          <textarea
            rows={3}
            aria-label={talkTexts.change.label}
            value={editing}
            autoFocus
            onInput={(e) => setEditing(e.currentTarget.value)}
            onKeyDown={(e) => {
              if (e.key !== "Escape") return;
              e.preventDefault(); // the panel stays
              setEditing(undefined);
            }}
          />
          <button className="go">{talkTexts.change.save}</button>{" "}
          <button className="plain" type="button" onClick={() => setEditing(undefined)}>
            {talkTexts.change.cancel}
          </button>
        </form>
      ) : gone ? (
        <div className="words gone">{change.kind === "refused" ? talkTexts.file.refused : "…"}</div>
      ) : event.kind === "shared" ? (
        <Shared event={event} onRefuse={own ? undefined : () => run("refuse")} />
      ) : event.card ? (
        <Suspense fallback={said}>
          <Card
            card={event.card}
            takes={store.takes}
            inBasket={inBasket}
            use={async (how) => {
              await store.change("use-card", event.number, { how });
              if (how === "basket") confide({ kind: "card", card: event.card });
            }}
          />
        </Suspense>
      ) : (
        said
      )}
      {trouble ? (
        <p className="wrong" role="alert">
          {trouble}
        </p>
      ) : null}
    </div>
  );
}

/** A file: pictures small, sound and video to play, all others by name. */
function Shared({ event, onRefuse }: { event: EventView; onRefuse: (() => void) | undefined }) {
  const file = event.file;
  if (!file) return <div className="words gone">{talkTexts.file.gone}</div>;
  const scale = Math.min(1, 220 / (file.width || 220), 160 / (file.height || 160));
  return (
    <div className="words">
      {file.thumbUrl ? (
        <a href={file.url} target="_blank" rel="noopener">
          <img
            src={file.thumbUrl}
            alt={file.name}
            width={Math.round((file.width || 220) * scale)}
            height={Math.round((file.height || 160) * scale)}
          />
        </a>
      ) : null}
      {file.kind === "sound" ? <audio controls preload="none" src={file.url} /> : null}
      {file.kind === "video" ? <video controls preload="metadata" src={file.url} /> : null}
      <a href={file.url} target="_blank" rel="noopener">
        <bdi>{file.voice ? talkTexts.file.voice : file.name}</bdi>
      </a>{" "}
      <span className="size">{fileSize(file.size)}</span>
      {onRefuse ? (
        <>
          {" "}
          <button className="link" onClick={onRefuse}>
            {talkTexts.file.refuse}
          </button>
        </>
      ) : null}
    </div>
  );
}

function UnsentMessage({ message, onAnew }: { message: Unsent; onAnew: () => void }) {
  return (
    <div className="said own unsent">
      <p className="by">
        <b>{talkTexts.you}</b>
        <time>{timeOfDay(message.at)}</time>
        {message.problem ? null : <span className="receipt">{talkTexts.receipts.sending}</span>}
      </p>
      <div className="words" dir="auto">
        <Words text={message.text} />
      </div>
      {message.problem ? (
        <p className="wrong" role="alert">
          {talkTexts.notSent} {textOf(message.problem).title}. {textOf(message.problem).detail}{" "}
          <button className="link" onClick={onAnew}>
            {talkTexts.edit}
          </button>
        </p>
      ) : null}
    </div>
  );
}

/** Since when the visitor waits for a person: from the beginning, or since they were put back or the helper left them. */
function waitingSince(log: EventView[], startedAt: string): string {
  let beside = false;
  let since = startedAt;
  for (const e of log) {
    if (e.kind === "helper-began") beside = e.helper?.beside === true;
    if (e.kind === "put-back" || (e.kind === "helper-left" && !beside)) since = e.at;
  }
  return since;
}
