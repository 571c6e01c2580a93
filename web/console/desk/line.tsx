import Button from "@mui/material/Button";

import { clock } from "../../shared/format";
import type { ChatView } from "../../shared/types";
import { Icons } from "../icons";
import { useDesk, useDeskStore, useNow } from "./provider";
import { readClock, ReplyClock } from "./reply-clock";

/** The line: who waits, and whom I hold. */
export function Line({ shown }: { shown: string[] }) {
  const store = useDeskStore();
  const { loaded, me } = useDesk();
  const waiting = store.waiting();
  const mine = store.mine();
  return (
    <aside className="line" aria-label="The line">
      <section aria-labelledby="waiting-head">
        <header>
          <h2 id="waiting-head">Waiting</h2>
          <span className="count">{waiting.length}</span>
          <Button
            variant={waiting.length > 0 && mine.length === 0 ? "contained" : "outlined"}
            disabled={waiting.length === 0}
            onClick={() => waiting[0] && void store.take(waiting[0].id)}
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
    </aside>
  );
}

function WaitingCard({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const { taking, places } = useDesk();
  const now = useNow();
  const reading = readClock(chat, now);
  const place = places.get(chat.visitorId);
  return (
    <li>
      <button
        className={`wait ${reading.urgency}`}
        disabled={taking.has(chat.id)}
        onClick={() => void store.take(chat.id)}
        title="Take this chat"
      >
        <span className="row">
          <bdi className="name cut">{chat.name || "Visitor"}</bdi>
          <span className="clock">{clock(now - Date.parse(chat.startedAt))}</span>
        </span>
        <span className="row meta">
          <span className="cut">
            {place?.here ? place.pageTitle || chat.widgetName : "not on the site now"}
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
        <span className={`bar ${reading.urgency}`}>
          <i style={{ width: `${reading.share * 100}%` }} />
        </span>
        <span className="sr-only">Take this chat</span>
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
