import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { memo, useEffect } from "react";

import { apart } from "../../shared/apart";
import { clock, dayAndTime, firstName } from "../../shared/format";
import type { ChatView, EventView } from "../../shared/types";
import { Icons } from "../icons";
import { hintOf } from "../keyboard/acts";
import { Button } from "../kit/button";
import { markOf } from "./marks";
import { useAt, useChat, useChats, useDeskStore, useMe, useNow, useScripts, useWindows } from "./provider";
import { readClock, ReplyClock, Since, Until, useGone } from "./reply-clock";
import { nameOf } from "./name-of";
import { Card } from "./card";

interface Props {
  id: string;
}

/** The words of the last event of a kind in a chat that is looked into. */
export function useLastWords(id: string, kind: EventView["kind"]): string | undefined {
  return useScripts((s) => s.logs.get(id)?.events.findLast((e) => e.kind === kind)?.text);
}

/** A chat that I have some seconds to take, or that a colleague hands to me. */
export function OfferCard({ id, first }: Props & { first: boolean }) {
  const chat = useChat(id);
  return chat ? <Offer chat={chat} first={first} /> : null;
}

function Offer({ chat, first }: { chat: ChatView; first: boolean }) {
  const store = useDeskStore();
  const taking = useChats((s) => s.taking.has(chat.id));
  const me = useMe();
  const now = useNow();
  const handed = chat.handingTo === me.id;
  const until = Date.parse((handed ? chat.handingUntil : chat.offeredUntil) ?? chat.since);
  const passed = useLastWords(chat.id, "handed-on");
  const note = handed ? passed : "";
  useEffect(() => {
    if (handed) store.scripts.look(chat.id);
  }, [store, handed, chat.id]);
  return (
    <Card id={chat.id} className="offer">
      <div className="row">
        <bdi className="name cut">{nameOf(chat)}</bdi>
        <span className="clock" role="timer">
          <Trans>{clock(until - now + 999)} left</Trans>
        </span>
      </div>
      <div className="row meta">
        <span className="cut">
          {[
            !handed
              ? chat.departmentName
              : chat.ownerName
                ? t`Handed on by ${chat.ownerName}`
                : t`Handed on by a colleague`,
            chat.priority > 0 ? t`priority ${chat.priority}` : "",
          ]
            .filter(Boolean)
            .join(", ")}
        </span>
        {handed ? null : (
          <span>
            <Trans>waiting {clock(now - Date.parse(chat.since))}</Trans>
          </span>
        )}
      </div>
      <p className="ask" dir="auto">
        {chat.lastWords}
      </p>
      {note ? (
        <p className="note-words" dir="auto">
          <b>
            <Trans>Note</Trans>
          </b>{" "}
          {note}
        </p>
      ) : null}
      <div className="row acts">
        <Button
          variant={first ? "contained" : "outlined"}
          disabled={taking}
          onClick={() => void store.acts.take(chat.id)}
        >
          <Trans>Take</Trans> {first ? <span className="key">{hintOf("take-offer")}</span> : null}
        </Button>
        <Button variant="outlined" onClick={() => void store.acts.pass(chat.id)}>
          {handed ? t`Decline` : t`Pass`}
        </Button>
      </div>
    </Card>
  );
}

/** Somebody who waits; pressing takes the chat. */
export const WaitingCard = memo(function WaitingCard({ id }: Props) {
  const chat = useChat(id);
  return chat ? <Waiting chat={chat} /> : null;
});

function Waiting({ chat }: { chat: ChatView }) {
  const taking = useChats((s) => s.taking.has(chat.id));
  const store = useDeskStore();
  const gone = useGone(chat);
  const urgency = useAt((now) => readClock(chat, now, gone).urgency);
  return (
    <Card id={chat.id}>
      <button
        className={`wait ${urgency}`}
        disabled={taking || chat.offeredTo !== undefined}
        onClick={() => void store.acts.take(chat.id)}
      >
        <span className="row">
          <bdi className="name cut">{nameOf(chat)}</bdi>
          {/* What ticks is no part of the name by which the card is read out. */}
          <span aria-hidden="true">
            <Since at={chat.since} />
          </span>
        </span>
        <span className="row meta">
          <span className="cut">
            {chat.handingDepartmentId
              ? t`${chat.ownerName ?? ""} is handing on to ${chat.handingToName ?? ""}`
              : `${wayWords(chat)}${chat.departmentName}`}
            {gone ? ` · ${t`left the site`}` : ""}
          </span>
          <Left chat={chat} gone={gone} />
        </span>
        <span className="ask" dir="auto">
          {chat.lastWords}
        </span>
        {chat.offeredUntil ? (
          <span className="asked">
            <Trans>Asking {firstName(chat.offeredToName ?? "")}</Trans>
            <span aria-hidden="true">
              , <Until at={chat.offeredUntil} />
            </span>
          </span>
        ) : chat.priority !== 0 || chat.handOns > 0 ? (
          <span className="asked">
            {[
              chat.priority !== 0 ? t`priority ${chat.priority}` : "",
              chat.handOns > 0
                ? plural(chat.handOns, { one: "handed on once", other: "handed on # times" })
                : "",
            ]
              .filter(Boolean)
              .join(", ")}
          </span>
        ) : null}
        <WaitBar chat={chat} gone={gone} />
        <span className="sr-only">
          <Trans>Take this chat</Trans>
        </span>
      </button>
    </Card>
  );
}

/** By which way somebody writes who is not on the site. */
const wayWords = ({ way }: ChatView) => (way ? (way.kind === "text" ? t`By text` : t`By email`) + " · " : "");

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
export function MessageCard({ id }: Props) {
  const chat = useChat(id);
  return chat ? <Message chat={chat} /> : null;
}

function Message({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const taking = useChats((s) => s.taking.has(chat.id));
  return (
    <Card id={chat.id}>
      <button className="wait message" disabled={taking} onClick={() => void store.acts.take(chat.id)}>
        <span className="row">
          <bdi className="name cut">{nameOf(chat)}</bdi>
          <span className="when">{dayAndTime(chat.arrived)}</span>
        </span>
        <span className="row meta">
          <span className="cut">
            <Icons.Letter /> {chat.way?.address || chat.email || chat.phone || t`no contact details`}
          </span>
          <span className="cut">{chat.departmentName}</span>
        </span>
        <span className="ask" dir="auto">
          {chat.lastWords}
        </span>
        <span className="sr-only">
          <Trans>Take this message</Trans>
        </span>
      </button>
    </Card>
  );
}

interface MyProps extends Props {
  inLane: boolean;
}

/** A chat that I hold; pressing turns to its lane. */
export const MyCard = memo(function MyCard({ id, inLane }: MyProps) {
  const chat = useChat(id);
  return chat ? <Mine chat={chat} inLane={inLane} /> : null;
});

function Mine({ chat, inLane }: { chat: ChatView; inLane: boolean }) {
  const number = useWindows((s) => s.lanes.numbers[chat.id] ?? 0);
  const outside = useWindows((s) => s.lanes.outside.has(chat.id));
  const store = useDeskStore();
  const draft = useScripts((s) => s.drafts.get(chat.id));
  const current = useWindows((s) => s.focused === chat.id);
  const words = draft?.text
    ? t`typing: ${apart(draft.text)}`
    : chat.phase === "ended" && chat.needsOutcome
      ? t`ended, needs an outcome`
      : chat.lastWordsSide === "team"
        ? t`You: ${apart(chat.lastWords)}`
        : chat.lastWords;
  return (
    <li>
      <button
        className={`mine ${inLane ? "in-lane" : ""} ${chat.unread ? "is-unread" : ""}`}
        aria-current={current}
        onClick={() => store.screen.writeTo(chat.id)}
      >
        <span className={`plate ${inLane ? "on" : ""} ${markOf(number)}`}>{number}</span>
        <span className="row">
          <bdi className="name cut">{nameOf(chat)}</bdi>
          <ReplyClock chat={chat} short />
        </span>
        <span className="row">
          <span className="last cut" dir="auto">
            {words}
          </span>
          {chat.unseen > 0 && !inLane ? (
            <span className="count new" aria-label={t`${chat.unseen} new`}>
              {chat.unseen > 99 ? "99+" : chat.unseen}
            </span>
          ) : chat.unread ? (
            <span className="side unread">
              <Trans>unread</Trans>
            </span>
          ) : outside ? (
            <span className="side">
              <Icons.Window /> <Trans>own window</Trans>
            </span>
          ) : inLane ? (
            <span className="side">
              <Icons.Lanes /> <Trans>in lane</Trans>
            </span>
          ) : null}
        </span>
      </button>
    </li>
  );
}
