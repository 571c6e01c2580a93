import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useNavigate } from "react-router";

import { aboutMinutes, clock, firstName } from "../../shared/format";
import type { ChatView, FloorDepartment, FloorMember } from "../../shared/types";
import { useDeskStore, useListed, useNow } from "../desk/provider";
import { waitingFor } from "../desk/store/lists";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { handOutWords, stateWords } from "../words/codes";
import { hoursWords } from "../words/hours";

const hallWords = { open: t`Open`, busy: t`All busy`, closed: t`Closed` } as const;

/** One department of the Floor: who waits and how long already, how today went, and who is there. */
export function Hall({ department: d }: { department: FloorDepartment }) {
  const now = useNow();
  // As the Desk knows it this second; what the server counts comes every few.
  const waits = useListed((chats) => waitingFor(chats, d.id));
  const first = waits.find((c) => c.phase === "waiting");
  const longest = first ? now - Date.parse(first.since) : 0;
  const target = d.targetSeconds * 1000;
  const urgency = !first
    ? "calm"
    : longest > target
      ? "late"
      : longest >= d.soonSeconds * 1000
        ? "soon"
        : "calm";
  const members = [...d.members].sort(
    (a, b) =>
      Number(a.backup) - Number(b.backup) ||
      states.indexOf(a.state) - states.indexOf(b.state) ||
      a.name.localeCompare(b.name),
  );
  return (
    <section className="hall" aria-label={d.name}>
      <header>
        <h2>{d.name}</h2>
        <span className={`state ${d.state}`}>
          {d.state === "open" ? <Icons.Check /> : d.state === "busy" ? <Icons.Hourglass /> : <Icons.Door />}
          {d.state === "closed" && d.hoursOpen ? t`Nobody in` : hallWords[d.state]}
        </span>
      </header>
      <p className="hours">
        {hoursWords(d.hours, now)}
        {" · "}
        {handOutWords(d.handOut)}
      </p>
      <Now
        department={d}
        waiting={waits.length}
        longest={first ? clock(longest) : t`none`}
        urgency={urgency}
      />
      <Waiting department={d} waits={waits} />
      <Today department={d} />
      <ul className="members" aria-label={t`Members of ${d.name}`}>
        {members.map((m) => (
          <li key={m.id} className={m.state}>
            <span className="who cut">
              {m.name}
              {m.backup ? (
                <i>
                  {" "}
                  <Trans>backup</Trans>
                </i>
              ) : null}
            </span>
            <Slots load={m.load} offered={m.offered} capacity={m.capacity} />
            <span className="figures">
              <Trans>
                {m.load} of {m.capacity}
              </Trans>
            </span>
            <span className="word">
              {m.awayWhy === "passes"
                ? t`away, missed offers`
                : m.awayWhy === "call"
                  ? t`away, did not come when told`
                  : stateWords(m.state)}
            </span>
            <span className="did">{did(m)}</span>
          </li>
        ))}
      </ul>
      {d.members.length === 0 ? (
        <p className="nothing">
          <Trans>No members yet.</Trans>
        </p>
      ) : null}
    </section>
  );
}

/** What a member did today, over all departments: what ended, and how punctual they were in it. */
function did(m: FloorMember): string {
  if (m.ended === 0) return "";
  const chats = plural(m.ended, { one: "# ended today", other: "# ended today" });
  return m.replies > 0 ? t`${chats}, ${m.onTime} of ${m.replies} replies in time` : chats;
}

/** Chats in hand as steps: filled, on offer, and free. */
function Slots({ load, offered, capacity }: { load: number; offered: number; capacity: number }) {
  const all = Math.min(Math.max(capacity, load + offered), 12);
  return (
    <span className="slots" aria-hidden="true">
      {Array.from({ length: all }, (_, i) => (
        <i
          key={i}
          className={i < load ? (i < capacity ? "held" : "over") : i < load + offered ? "offered" : ""}
        />
      ))}
    </span>
  );
}

const states = ["available", "call", "away", "offline"];

type Urgency = "calm" | "soon" | "late";

/** How a department stands at this moment. */
function Now({
  department: d,
  waiting,
  longest,
  urgency,
}: {
  department: FloorDepartment;
  waiting: number;
  longest: string;
  urgency: Urgency;
}) {
  return (
    <dl>
      <div className={urgency}>
        <dt>
          <Trans>Waiting</Trans>
        </dt>
        <dd>
          {urgency === "late" ? <Icons.Warning /> : null}
          {waiting}
        </dd>
      </div>
      <div className={urgency}>
        <dt>
          <Trans>Longest wait</Trans>
        </dt>
        <dd>{longest}</dd>
      </div>
      <div>
        <dt>
          <Trans>In hand</Trans>
        </dt>
        <dd>
          <Trans>
            {d.load} of {d.slots}
          </Trans>
        </dd>
      </div>
      <div className="whole">
        <dt>
          <Trans>New visitors right now</Trans>
        </dt>
        <dd>{arrivalWords(d)}</dd>
      </div>
    </dl>
  );
}

/** Says what becomes of a visitor who writes now. */
function arrivalWords(d: FloorDepartment): string {
  if (d.state === "open") return d.handOut === "pick" ? t`wait to be taken` : t`do not wait`;
  if (d.helpedBy.length > 0) return t`go to ${d.helpedBy[0] ?? ""}`;
  if (d.state === "closed") return t`leave a message`;
  return d.estimateSeconds > 0 ? t`wait ${aboutMinutes(d.estimateSeconds)}` : t`wait`;
}

const shownWaiting = 4;

/** Who waits, the longest first, with the wait as it grows towards the target and beyond. */
function Waiting({ department: d, waits }: { department: FloorDepartment; waits: ChatView[] }) {
  const store = useDeskStore();
  const navigate = useNavigate();
  const now = useNow();
  if (waits.length === 0) return null;
  // The Desk says it when it cannot be taken, or asks when it is too many.
  const take = (c: ChatView) => {
    void store.acts.take(c.id);
    void navigate("/desk");
  };
  const more = waits.length - shownWaiting;
  return (
    <ul className="waits" aria-label={t`Waiting for ${d.name}`}>
      {waits.slice(0, shownWaiting).map((c) => {
        const handedOn = c.handingDepartmentId !== undefined;
        const waited = handedOn ? 0 : now - Date.parse(c.since);
        const late = waited > d.targetSeconds * 1000;
        const name = c.name || t`Visitor`;
        return (
          <li key={c.id} className={late ? "late" : waited >= d.soonSeconds * 1000 ? "soon" : "calm"}>
            <bdi className="cut">{name}</bdi>
            {handedOn ? (
              <span className="from cut">
                <Trans>handed on by {firstName(c.ownerName ?? "")}</Trans>
              </span>
            ) : (
              <>
                <span className="grows" aria-hidden="true">
                  <i style={{ width: `${Math.min(100, waited / d.targetSeconds / 20)}%` }} />
                </span>
                <span className="figures">{clock(waited)}</span>
              </>
            )}
            {c.offeredUntil ? (
              <span className="word">
                <Trans>Asking {firstName(c.offeredToName ?? "")}</Trans>
              </span>
            ) : (
              <Button aria-label={t`Take ${name}`} onClick={() => take(c)}>
                <Trans>Take</Trans>
              </Button>
            )}
          </li>
        );
      })}
      {more > 0 ? (
        <li className="nothing">{plural(more, { one: "and # more", other: "and # more" })}</li>
      ) : null}
    </ul>
  );
}

/** How today went, against the target. */
function Today({ department: d }: { department: FloorDepartment }) {
  const target = clock(d.targetSeconds * 1000);
  return (
    <dl className="today">
      <div>
        <dt>
          <Trans>Today</Trans>
        </dt>
        <dd>{d.missed > 0 ? t`${d.today}, ${d.missed} missed` : d.today}</dd>
      </div>
      <div>
        <dt>
          <Trans>Taken within {target}</Trans>
        </dt>
        <dd>{d.decided > 0 ? t`${d.within} of ${d.decided}` : t`none yet`}</dd>
      </div>
      <div>
        <dt>
          <Trans>Wait, median</Trans>
        </dt>
        <dd>{d.waitSeconds === undefined ? t`none yet` : clock(d.waitSeconds * 1000)}</dd>
      </div>
      <div>
        <dt>
          <Trans>Rated</Trans>
        </dt>
        <dd>{d.rated > 0 ? t`${d.rating.toFixed(1)} (${d.rated})` : t`none yet`}</dd>
      </div>
      <div>
        <dt>
          <Trans>Messages left</Trans>
        </dt>
        <dd>{d.messages}</dd>
      </div>
    </dl>
  );
}
