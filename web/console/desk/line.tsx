import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useSnackbar } from "notistack";
import { useEffect } from "react";

import { clock, dayAndTime, firstName } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import type { ChatView } from "../../shared/types";
import { Icons } from "../icons";
import { useDesk, useDeskStore, useNow } from "./provider";
import { readClock, ReplyClock } from "./reply-clock";

/** The line: who is offered to me, who waits, what was left, and whom I hold. */
export function Line({ shown }: { shown: string[] }) {
  const store = useDeskStore();
  const { loaded, me, setAwayAfter } = useDesk();
  const offers = store.offers();
  const waiting = store.waiting();
  const messages = store.messages();
  const mine = store.mine();
  const next = waiting.find((c) => !c.offeredTo);
  return (
    <aside className="line" aria-label="The line">
      {setAwayAfter > 0 ? <SetAway passes={setAwayAfter} /> : null}
      {offers.length > 0 ? (
        <section aria-labelledby="offers-head" className="offers">
          <header>
            <h2 id="offers-head">For you</h2>
            <span className="count new">{offers.length}</span>
          </header>
          <ul aria-label="Offered to me">
            {offers.map((chat, i) => (
              <OfferCard key={chat.id} chat={chat} first={i === 0} />
            ))}
          </ul>
        </section>
      ) : null}
      <section aria-labelledby="waiting-head">
        <header>
          <h2 id="waiting-head">Waiting</h2>
          <span className="count">{waiting.length}</span>
          <Button
            variant={next && offers.length === 0 && mine.length === 0 ? "contained" : "outlined"}
            disabled={!next}
            onClick={() => next && void store.take(next.id)}
          >
            Take next <span className="key">Alt N</span>
          </Button>
        </header>
        {waiting.length > 0 ? (
          <ul aria-label="Waiting visitors">
            {waiting.map((chat) => (
              <WaitingCard key={chat.id} chat={chat} />
            ))}
          </ul>
        ) : (
          <p className="nothing">
            {!loaded
              ? "Loading the line"
              : me.available
                ? "Nobody is waiting."
                : "Nobody is waiting. You are away."}
          </p>
        )}
      </section>
      {messages.length > 0 ? (
        <section aria-labelledby="messages-head">
          <header>
            <h2 id="messages-head">Messages left</h2>
            <span className="count">{messages.length}</span>
          </header>
          <ul aria-label="Messages left">
            {messages.map((chat) => (
              <MessageCard key={chat.id} chat={chat} />
            ))}
          </ul>
        </section>
      ) : null}
      <section aria-labelledby="mine-head">
        <header>
          <h2 id="mine-head">With me</h2>
          <span className="count">{mine.filter((c) => c.phase === "active").length}</span>
        </header>
        {mine.length > 0 ? (
          <ul aria-label="My chats">
            {mine.map((chat) => (
              <MyCard key={chat.id} chat={chat} inLane={shown.includes(chat.id)} />
            ))}
          </ul>
        ) : (
          <p className="nothing">Chats that you take stay here until they end.</p>
        )}
      </section>
      <TooMany />
    </aside>
  );
}

/** Tells somebody whom Stoop set away, and how to come back. */
function SetAway({ passes }: { passes: number }) {
  const store = useDeskStore();
  const { enqueueSnackbar } = useSnackbar();
  const back = () => {
    store
      .setAvailable(true)
      .catch((error: unknown) => enqueueSnackbar(wordsFor(error), { variant: "error" }));
  };
  return (
    <section className="set-away" role="alert">
      <p>
        <Icons.Pause /> <b>You are away now.</b> {passes} offers in a row went by without an answer, so new
        chats go to your colleagues. Chats in hand stay yours.
      </p>
      <Button variant="outlined" onClick={back}>
        I am back
      </Button>
      <Button onClick={() => store.readAway()}>Stay away</Button>
    </section>
  );
}

/** Asks before somebody takes more chats than they should hold. */
function TooMany() {
  const store = useDeskStore();
  const { tooMany, chats } = useDesk();
  if (!tooMany) return null;
  const name = chats.get(tooMany.chatId)?.name || "this visitor";
  return (
    <Dialog open onClose={() => store.leaveIt()} aria-labelledby="too-many">
      <DialogTitle id="too-many">One more than you should hold</DialogTitle>
      <DialogContent>
        You hold {tooMany.load} of {tooMany.capacity} chats. Take <bdi>{name}</bdi> all the same?
      </DialogContent>
      <DialogActions>
        <Button onClick={() => store.leaveIt()}>Leave it for a colleague</Button>
        <Button variant="contained" autoFocus onClick={() => void store.take(tooMany.chatId, true)}>
          Take it all the same
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** A chat that I have some seconds to take, or that a colleague hands to me. */
function OfferCard({ chat, first }: { chat: ChatView; first: boolean }) {
  const store = useDeskStore();
  const { taking, me, logs } = useDesk();
  const now = useNow();
  const handed = chat.handingTo === me.id;
  const until = Date.parse((handed ? chat.handingUntil : chat.offeredUntil) ?? chat.since);
  const note = handed ? logs.get(chat.id)?.events.findLast((e) => e.kind === "handed-on")?.text : "";
  useEffect(() => {
    if (handed) store.look(chat.id);
  }, [store, handed, chat.id]);
  return (
    <li className="offer">
      <div className="row">
        <bdi className="name cut">{chat.name || "Visitor"}</bdi>
        <span className="clock" role="timer">
          {clock(until - now + 999)} left
        </span>
      </div>
      <div className="row meta">
        <span className="cut">
          {handed ? `${chat.ownerName ?? "A colleague"} hands on` : chat.departmentName}
          {chat.priority > 0 ? `, priority ${chat.priority}` : ""}
        </span>
        {handed ? null : <span>waits {clock(now - Date.parse(chat.since))}</span>}
      </div>
      <p className="ask" dir="auto">
        {chat.lastWords}
      </p>
      {note ? (
        <p className="note-words" dir="auto">
          <b>Note</b> {note}
        </p>
      ) : null}
      <div className="row acts">
        <Button
          variant={first ? "contained" : "outlined"}
          disabled={taking.has(chat.id)}
          onClick={() => void store.take(chat.id)}
        >
          Take {first ? <span className="key">Alt Y</span> : null}
        </Button>
        <Button variant="outlined" onClick={() => void store.pass(chat.id)}>
          {handed ? "Decline" : "Pass"}
        </Button>
      </div>
    </li>
  );
}

function WaitingCard({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const { taking, places } = useDesk();
  const now = useNow();
  const reading = readClock(chat, now);
  const place = places.get(chat.visitorId);
  const waited = now - Date.parse(chat.since);
  return (
    <li>
      <button
        className={`wait ${reading.urgency}`}
        disabled={taking.has(chat.id) || chat.offeredTo !== undefined}
        onClick={() => void store.take(chat.id)}
        title={chat.offeredTo ? `${chat.offeredToName} is being asked` : "Take this chat"}
      >
        <span className="row">
          <bdi className="name cut">{chat.name || "Visitor"}</bdi>
          <span className="clock">{clock(waited)}</span>
        </span>
        <span className="row meta">
          <span className="cut">
            {chat.handingDepartmentId
              ? `${chat.ownerName} hands on to ${chat.handingToName}`
              : chat.departmentName}
            {place?.here ? "" : ", gone"}
          </span>
          <span className={`left ${reading.urgency}`}>
            {reading.urgency === "late" ? (
              <Icons.Warning />
            ) : reading.urgency === "soon" ? (
              <Icons.Hourglass />
            ) : null}
            {reading.leftWords}
          </span>
        </span>
        <span className="ask" dir="auto">
          {chat.lastWords}
        </span>
        {chat.offeredUntil ? (
          <span className="asked">
            Asking {firstName(chat.offeredToName ?? "")},{" "}
            <span className="clock">{clock(Date.parse(chat.offeredUntil) - now + 999)}</span>
          </span>
        ) : chat.priority !== 0 || chat.handOns > 0 ? (
          <span className="asked">
            {chat.priority !== 0 ? `priority ${chat.priority}` : ""}
            {chat.priority !== 0 && chat.handOns > 0 ? ", " : ""}
            {chat.handOns > 0
              ? chat.handOns === 1
                ? "changed hands once"
                : `changed hands ${chat.handOns} times`
              : ""}
          </span>
        ) : null}
        <span className={`bar ${reading.urgency}`}>
          <i style={{ width: `${reading.share * 100}%` }} />
        </span>
        <span className="sr-only">Take this chat</span>
      </button>
    </li>
  );
}

/** A question that was left while nobody could answer. */
function MessageCard({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const { taking } = useDesk();
  return (
    <li>
      <button
        className="wait message"
        disabled={taking.has(chat.id)}
        onClick={() => void store.take(chat.id)}
        title="Take this message"
      >
        <span className="row">
          <bdi className="name cut">{chat.name || "Visitor"}</bdi>
          <span className="when">{dayAndTime(chat.arrived)}</span>
        </span>
        <span className="row meta">
          <span className="cut">
            <Icons.Letter /> {chat.email || chat.phone || "no way to answer given"}
          </span>
          <span className="cut">{chat.departmentName}</span>
        </span>
        <span className="ask" dir="auto">
          {chat.lastWords}
        </span>
      </button>
    </li>
  );
}

function MyCard({ chat, inLane }: { chat: ChatView; inLane: boolean }) {
  const store = useDeskStore();
  const { drafts, focused } = useDesk();
  const now = useNow();
  const number = store.lanes.numberOf(chat.id);
  const draft = drafts.get(chat.id);
  const words = draft?.text
    ? `typing: ${draft.text}`
    : `${chat.lastWordsSide === "team" ? "You: " : ""}${chat.lastWords}`;
  return (
    <li>
      <button
        className={`mine ${inLane ? "in-lane" : ""}`}
        aria-current={focused === chat.id}
        onClick={() => {
          store.focus(chat.id);
          requestAnimationFrame(() => document.getElementById(`write-${chat.id}`)?.focus());
        }}
      >
        <span className={`plate ${inLane ? "on" : ""}`}>{number}</span>
        <span className="row">
          <bdi className="name cut">{chat.name || "Visitor"}</bdi>
          <ReplyClock chat={chat} now={now} short />
        </span>
        <span className="row">
          <span className="last cut" dir="auto">
            {words}
          </span>
          {chat.unseen > 0 && !inLane ? (
            <span className="count new" aria-label={`${chat.unseen} new`}>
              {chat.unseen > 99 ? "99+" : chat.unseen}
            </span>
          ) : inLane ? (
            <span className="side">
              <Icons.Lanes /> in lane
            </span>
          ) : null}
        </span>
      </button>
    </li>
  );
}
