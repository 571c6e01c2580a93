import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useSnackbar } from "notistack";
import { memo, useEffect, useState } from "react";

import { apart } from "../../shared/apart";
import { clock, dayAndTime, firstName } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import type { ChatView } from "../../shared/types";
import { Icons } from "../icons";
import { hintOf } from "../keyboard/acts";
import { markOf } from "./marks";
import { useAt, useDesk, useDeskPart, useDeskStore, useNow } from "./provider";
import { readClock, ReplyClock, Since, Until, useGone } from "./reply-clock";

// How many waiting visitors are drawn: those who wait longest. A whole ferry's
// worth of clocks would tick out of sight.
const atOnce = 40;

/** The line: who is offered to me, who waits, what was left, and whom I hold. */
export function Line({ shown }: { shown: string[] }) {
  const store = useDeskStore();
  const { loaded, me, setAwayAfter, taking } = useDesk();
  const offers = store.offers();
  const waiting = store.waiting();
  const messages = store.messages();
  const mine = store.mine();
  const calls = store.calls();
  const next = waiting.find((c) => !c.offeredTo);
  const [pointed, setPointed] = useState(false);
  // Nothing moves under the pointer: while it is over the line, who is there
  // keeps the place, and whoever comes stands at the end.
  const steady = useSteady(waiting, pointed);
  const [drawn, setDrawn] = useState(atOnce);
  return (
    <aside
      className="line"
      aria-label="The line"
      onPointerEnter={() => setPointed(true)}
      onPointerLeave={() => setPointed(false)}
    >
      <div
        className="coming"
        onScroll={(event) => {
          const { scrollHeight, scrollTop, clientHeight } = event.currentTarget;
          if (waiting.length > drawn && scrollHeight - scrollTop - clientHeight < 400)
            setDrawn(drawn + atOnce);
        }}
      >
        <section aria-labelledby="waiting-head">
          <header>
            <h2 id="waiting-head">Waiting</h2>
            <span className="count">{waiting.length}</span>
            <Button
              variant={next && offers.length === 0 && mine.length === 0 ? "contained" : "outlined"}
              disabled={!next}
              onClick={() => next && void store.take(next.id)}
            >
              Take next <span className="key">{hintOf("take-next")}</span>
            </Button>
          </header>
          {waiting.length > 0 ? (
            <ul aria-label="Waiting visitors">
              {steady.slice(0, drawn).map((chat) => (
                <WaitingCard key={chat.id} chat={chat} taking={taking.has(chat.id)} />
              ))}
              {waiting.length > drawn ? (
                <li>
                  <Button onClick={() => setDrawn(drawn + atOnce)}>
                    Show more: {waiting.length - drawn} further back
                  </Button>
                </li>
              ) : null}
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
      </div>
      {setAwayAfter > 0 || offers.length > 0 || calls.length > 0 ? (
        <div className="asks">
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
          {calls.length > 0 ? (
            <section aria-labelledby="calls-head" className="calls">
              <header>
                <h2 id="calls-head">Colleagues asking for help</h2>
                <span className="count new">{calls.length}</span>
              </header>
              <ul aria-label="Colleagues asking for help">
                {calls.map((chat) => (
                  <CallCard key={chat.id} chat={chat} />
                ))}
              </ul>
            </section>
          ) : null}
        </div>
      ) : null}
      <section aria-labelledby="mine-head" className={mine.length > 0 ? "own some" : "own"}>
        <header>
          <h2 id="mine-head">With me</h2>
          <span className="count">
            {mine.filter((c) => c.phase === "active" || wrapsUp(c, store.now())).length}
          </span>
        </header>
        {mine.length > 0 ? (
          <ul aria-label="My chats">
            {mine.map((chat) => (
              <MyCard
                key={chat.id}
                chat={chat}
                inLane={shown.includes(chat.id)}
                number={store.lanes.numberOf(chat.id)}
                outside={store.lanes.isOutside(chat.id)}
              />
            ))}
          </ul>
        ) : (
          <p className="nothing">Chats you take stay here until they end.</p>
        )}
      </section>
      <TooMany />
    </aside>
  );
}

/** Reports whether an ended chat still counts as one that I hold. */
function wrapsUp(chat: ChatView, now: number): boolean {
  return chat.phase === "ended" && chat.wrapUntil !== undefined && Date.parse(chat.wrapUntil) > now;
}

/** Keeps the order of a list while somebody points at it; what is new comes last. */
export function useSteady(list: ChatView[], steady: boolean): ChatView[] {
  const [order, setOrder] = useState<string[]>([]);
  const ids = list.map((c) => c.id);
  const place = (id: string) => {
    const at = order.indexOf(id);
    return at < 0 ? order.length + ids.indexOf(id) : at;
  };
  const kept = steady ? [...list].sort((a, b) => place(a.id) - place(b.id)) : list;
  const now = kept.map((c) => c.id);
  if (now.join() !== order.join()) setOrder(now);
  return kept;
}

/** A colleague's chat in which my department is asked for help. */
function CallCard({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const { logs } = useDesk();
  const now = useNow();
  const { enqueueSnackbar } = useSnackbar();
  const asked = logs.get(chat.id)?.events.findLast((e) => e.kind === "called")?.text;
  useEffect(() => store.look(chat.id), [store, chat.id]);
  return (
    <li className="offer">
      <div className="row">
        <span className="name cut">
          <bdi>{chat.ownerName}</bdi> asks
        </span>
        <span className="clock" role="timer">
          {clock(now - Date.parse(chat.callSince ?? chat.since))}
        </span>
      </div>
      <div className="row meta">
        <span className="cut">
          about <bdi>{chat.name || "a visitor"}</bdi>
        </span>
      </div>
      {asked ? (
        <p className="note-words" dir="auto">
          {asked}
        </p>
      ) : (
        <p className="ask" dir="auto">
          {chat.lastWords}
        </p>
      )}
      <div className="row acts">
        <Button
          variant="outlined"
          onClick={() =>
            store
              .join(chat.id)
              .catch((error: unknown) => enqueueSnackbar(wordsFor(error), { variant: "error" }))
          }
        >
          Join <span className="key">{hintOf("help-team")}</span>
        </Button>
      </div>
    </li>
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
        <Icons.Pause /> <b>You are now away.</b> You missed {passes} offers in a row, so new chats go to your
        colleagues. The chats you hold stay yours.
      </p>
      <Button variant="outlined" onClick={back}>
        I’m back
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
  const chat = chats.get(tooMany.chatId);
  const name = chat?.name || "this visitor";
  return (
    <Dialog open onClose={() => store.leaveIt()} aria-labelledby="too-many">
      <DialogTitle id="too-many">Take one more than your limit?</DialogTitle>
      <DialogContent>
        {chat?.departmentName ? `Your limit in ${chat.departmentName} is` : "Your limit is"}{" "}
        {tooMany.capacity === 1 ? "1 chat" : `${tooMany.capacity} chats`} at once, and you hold {tooMany.load}
        . Take <bdi>{name}</bdi> anyway?
      </DialogContent>
      <DialogActions>
        <Button onClick={() => store.leaveIt()}>Leave it to a colleague</Button>
        <Button variant="contained" autoFocus onClick={() => void store.take(tooMany.chatId, true)}>
          Take it anyway
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
          {handed ? `Handed on by ${chat.ownerName ?? "a colleague"}` : chat.departmentName}
          {chat.priority > 0 ? `, priority ${chat.priority}` : ""}
        </span>
        {handed ? null : <span>waiting {clock(now - Date.parse(chat.since))}</span>}
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
          Take {first ? <span className="key">{hintOf("take-offer")}</span> : null}
        </Button>
        <Button variant="outlined" onClick={() => void store.pass(chat.id)}>
          {handed ? "Decline" : "Pass"}
        </Button>
      </div>
    </li>
  );
}

const WaitingCard = memo(function WaitingCard({ chat, taking }: { chat: ChatView; taking: boolean }) {
  const store = useDeskStore();
  const gone = useGone(chat);
  const urgency = useAt((now) => readClock(chat, now, gone).urgency);
  return (
    <li>
      <button
        className={`wait ${urgency}`}
        disabled={taking || chat.offeredTo !== undefined}
        onClick={() => void store.take(chat.id)}
      >
        <span className="row">
          <bdi className="name cut">{chat.name || "Visitor"}</bdi>
          {/* What ticks is no part of the name by which the card is read out. */}
          <span aria-hidden="true">
            <Since at={chat.since} />
          </span>
        </span>
        <span className="row meta">
          <span className="cut">
            {chat.handingDepartmentId
              ? `${chat.ownerName} is handing on to ${chat.handingToName}`
              : chat.departmentName}
            {gone ? " · left the site" : ""}
          </span>
          <Left chat={chat} gone={gone} />
        </span>
        <span className="ask" dir="auto">
          {chat.lastWords}
        </span>
        {chat.offeredUntil ? (
          <span className="asked">
            Asking {firstName(chat.offeredToName ?? "")}
            <span aria-hidden="true">
              , <Until at={chat.offeredUntil} />
            </span>
          </span>
        ) : chat.priority !== 0 || chat.handOns > 0 ? (
          <span className="asked">
            {chat.priority !== 0 ? `priority ${chat.priority}` : ""}
            {chat.priority !== 0 && chat.handOns > 0 ? ", " : ""}
            {chat.handOns > 0
              ? chat.handOns === 1
                ? "handed on once"
                : `handed on ${chat.handOns} times`
              : ""}
          </span>
        ) : null}
        <WaitBar chat={chat} gone={gone} />
        <span className="sr-only">Take this chat</span>
      </button>
    </li>
  );
});

/** What is left of the answer target, in words. */
function Left({ chat, gone }: { chat: ChatView; gone: boolean }) {
  const reading = readClock(chat, useNow(), gone);
  return (
    <span className={`left ${reading.urgency}`} aria-hidden="true">
      {reading.urgency === "late" ? (
        <Icons.Warning />
      ) : reading.urgency === "soon" ? (
        <Icons.Hourglass />
      ) : null}
      {reading.leftWords}
    </span>
  );
}

function WaitBar({ chat, gone }: { chat: ChatView; gone: boolean }) {
  const reading = readClock(chat, useNow(), gone);
  return (
    <span className={`bar ${reading.urgency}`}>
      <i style={{ width: `${reading.share * 100}%` }} />
    </span>
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
      >
        <span className="row">
          <bdi className="name cut">{chat.name || "Visitor"}</bdi>
          <span className="when">{dayAndTime(chat.arrived)}</span>
        </span>
        <span className="row meta">
          <span className="cut">
            <Icons.Letter /> {chat.email || chat.phone || "no contact details"}
          </span>
          <span className="cut">{chat.departmentName}</span>
        </span>
        <span className="ask" dir="auto">
          {chat.lastWords}
        </span>
        <span className="sr-only">Take this message</span>
      </button>
    </li>
  );
}

interface MyProps {
  chat: ChatView;
  inLane: boolean;
  number: number;
  outside: boolean;
}

const MyCard = memo(function MyCard({ chat, inLane, number, outside }: MyProps) {
  const store = useDeskStore();
  const draft = useDeskPart((s) => s.drafts.get(chat.id));
  const current = useDeskPart((s) => s.focused === chat.id);
  const words = draft?.text
    ? `typing: ${apart(draft.text)}`
    : chat.phase === "ended" && chat.needsOutcome
      ? "ended, needs an outcome"
      : chat.lastWordsSide === "team"
        ? `You: ${apart(chat.lastWords)}`
        : chat.lastWords;
  return (
    <li>
      <button
        className={`mine ${inLane ? "in-lane" : ""} ${chat.unread ? "is-unread" : ""}`}
        aria-current={current}
        onClick={() => store.writeTo(chat.id)}
      >
        <span className={`plate ${inLane ? "on" : ""} ${markOf(number)}`}>{number}</span>
        <span className="row">
          <bdi className="name cut">{chat.name || "Visitor"}</bdi>
          <ReplyClock chat={chat} short />
        </span>
        <span className="row">
          <span className="last cut" dir="auto">
            {words}
          </span>
          {chat.unseen > 0 && !inLane ? (
            <span className="count new" aria-label={`${chat.unseen} new`}>
              {chat.unseen > 99 ? "99+" : chat.unseen}
            </span>
          ) : chat.unread ? (
            <span className="side unread">unread</span>
          ) : outside ? (
            <span className="side">
              <Icons.Window /> own window
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
});
