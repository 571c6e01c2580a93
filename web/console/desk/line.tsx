import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import type { ChatView, OperatorView } from "../../shared/types";
import { hintOf } from "../keyboard/acts";
import { Button } from "../kit/button";
import { later } from "../kit/later";
import { Lazily } from "../kit/lazily";
import { Calls, SetAway } from "./asks";
import { MessageCard, MyCard, OfferCard, WaitingCard } from "./line-cards";
import { idsOf, useAt, useChats, useDeskStore, useListed, useMyIds, useTeam, useWindows } from "./provider";
import { calls, messages, mine, offers, waiting, withHelper } from "./store/lists";

const TooManyDialog = later(() => import("./too-many"));
const LowRatings = later(() => import("../feedback/low-ratings"));
const WithHelper = later(() => import("./with-helper"));
const TicketsDue = later(() => import("../tickets/due-line"));
const OnSite = later(() => import("./on-site"));

// How many waiting visitors are drawn: those who wait longest. A whole ferry's
// worth of clocks would tick out of sight.
const atOnce = 40;

/** The line: who is offered to me, who waits, what was left, and whom I hold. */
export function Line({ shown }: { shown: string[] }) {
  const setAwayAfter = useTeam((s) => s.setAwayAfter);
  const offered = useListed(offerIds);
  const called = useListed((chats, me) => idsOf(calls(chats, me)));
  return (
    <aside className="line" aria-label={t`The line`}>
      <Coming />
      {setAwayAfter > 0 || offered.length > 0 || called.length > 0 ? (
        <div className="asks">
          {setAwayAfter > 0 ? <SetAway passes={setAwayAfter} /> : null}
          {offered.length > 0 ? (
            <section aria-labelledby="offers-head" className="offers">
              <header>
                <h2 id="offers-head">
                  <Trans>For you</Trans>
                </h2>
                <span className="count new">{offered.length}</span>
              </header>
              <ul aria-label={t`Offered to me`}>
                {offered.map((id, i) => (
                  <OfferCard key={id} id={id} first={i === 0} />
                ))}
              </ul>
            </section>
          ) : null}
          {called.length > 0 ? <Calls called={called} /> : null}
        </div>
      ) : null}
      <WithMe shown={shown} />
      <Lazily fallback={<section className="on-site" aria-busy="true" />}>
        <OnSite />
      </Lazily>
      <TooMany />
    </aside>
  );
}

const offerIds: Listing = (chats, me) => idsOf(offers(chats, me));
const waitingIds: Listing = (chats, me) => idsOf(waiting(chats, me));

type Listing = (chats: ReadonlyMap<string, ChatView>, me: OperatorView) => string[];

/** Who waits, and what was left. */
function Coming() {
  const store = useDeskStore();
  const loaded = useTeam((s) => s.loaded);
  const available = useTeam((s) => s.me.available);
  const departments = useTeam((s) => s.departments);
  const leads = useTeam((s) => s.me.role !== "operator");
  const waits = useListed(waitingIds);
  const left = useListed((chats, me) => idsOf(messages(chats, me, departments)));
  const next = useListed((chats, me) => idsOf(waiting(chats, me).filter((c) => !c.offeredTo)))[0];
  const asked = useListed(offerIds).length > 0;
  const helping = useChats((s) => [...s.chats.values()].some(withHelper));
  const idle = useListed((chats, me) => idsOf([...offers(chats, me), ...mine(chats, me, {})])).length === 0;
  const [pointed, setPointed] = useState(false);
  // Nothing moves under the pointer: while it is over the list, who is there
  // keeps the place, and whoever comes stands at the end.
  const steady = useSteady(waits, pointed);
  const [wanted, setDrawn] = useState(atOnce);
  // The one that a link led to is drawn, however far back.
  const drawn = Math.max(wanted, useWindows((s) => steady.indexOf(s.ledTo?.id ?? "")) + 1);
  return (
    <div
      className="coming"
      onPointerEnter={() => setPointed(true)}
      onPointerLeave={() => setPointed(false)}
      onScroll={(event) => {
        const { scrollHeight, scrollTop, clientHeight } = event.currentTarget;
        if (waits.length > drawn && scrollHeight - scrollTop - clientHeight < 400) setDrawn(drawn + atOnce);
      }}
    >
      <section aria-labelledby="waiting-head">
        <header>
          <h2 id="waiting-head">
            <Trans>Waiting</Trans>
          </h2>
          <span className="count">{waits.length}</span>
          <Button
            variant={next && idle ? "contained" : "outlined"}
            disabled={!next}
            onClick={() => next && void store.acts.take(next)}
          >
            <Trans>
              Take next <span className="key">{hintOf("take-next")}</span>
            </Trans>
          </Button>
        </header>
        {waits.length > 0 ? (
          <ul aria-label={t`Waiting visitors`}>
            {steady.slice(0, drawn).map((id) => (
              <WaitingCard key={id} id={id} />
            ))}
            {waits.length > drawn ? (
              <li>
                <Button onClick={() => setDrawn(drawn + atOnce)}>
                  <Trans>Show more: {waits.length - drawn} further back</Trans>
                </Button>
              </li>
            ) : null}
          </ul>
        ) : (
          <p className="nothing">
            {!loaded
              ? t`Loading the line`
              : asked
                ? t`Nobody else is waiting.`
                : available
                  ? t`Nobody is waiting.`
                  : t`Nobody is waiting. You are away.`}
          </p>
        )}
      </section>
      <Lazily>{helping ? <WithHelper /> : null}</Lazily>
      {left.length > 0 ? (
        <section aria-labelledby="messages-head">
          <header>
            <h2 id="messages-head">
              <Trans>Messages left</Trans>
            </h2>
            <span className="count">{left.length}</span>
          </header>
          <ul aria-label={t`Messages left`}>
            {left.map((id) => (
              <MessageCard key={id} id={id} />
            ))}
          </ul>
        </section>
      ) : null}
      <Lazily>
        <TicketsDue />
      </Lazily>
      <Lazily>{leads ? <LowRatings /> : null}</Lazily>
    </div>
  );
}

/** Whom I hold. */
function WithMe({ shown }: { shown: string[] }) {
  const own = useMyIds();
  const active = useListed((chats, me) => idsOf(mine(chats, me, {}).filter((c) => c.phase === "active")));
  const ended = useListed((chats, me) => mine(chats, me, {}).filter((c) => c.phase === "ended"));
  const wrapping = useAt((now) => ended.filter((c) => wrapsUp(c, now)).length);
  return (
    <section aria-labelledby="mine-head" className={own.length > 0 ? "own some" : "own"}>
      <header>
        <h2 id="mine-head">
          <Trans>With me</Trans>
        </h2>
        <span className="count">{active.length + wrapping}</span>
      </header>
      {own.length > 0 ? (
        <ul aria-label={t`My chats`}>
          {own.map((id) => (
            <MyCard key={id} id={id} inLane={shown.includes(id)} />
          ))}
        </ul>
      ) : (
        <p className="nothing">
          <Trans>Chats you take stay here until they end.</Trans>
        </p>
      )}
    </section>
  );
}

/** Reports whether an ended chat still counts as one that I hold. */
function wrapsUp(chat: ChatView, now: number): boolean {
  return chat.wrapUntil !== undefined && Date.parse(chat.wrapUntil) > now;
}

/** Keeps the order of a list of ids while somebody points at it; what is new comes last. */
export function useSteady(ids: string[], steady: boolean): string[] {
  const [order, setOrder] = useState<string[]>([]);
  const place = (id: string) => {
    const at = order.indexOf(id);
    return at < 0 ? order.length + ids.indexOf(id) : at;
  };
  const kept = steady ? [...ids].sort((a, b) => place(a) - place(b)) : ids;
  if (kept.join() !== order.join()) setOrder(kept);
  return kept;
}

/** Asks before somebody takes more chats than they should hold. */
function TooMany() {
  const asked = useChats((s) => s.tooMany !== undefined);
  return <Lazily>{asked ? <TooManyDialog /> : null}</Lazily>;
}
