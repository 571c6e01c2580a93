import "./floor.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";

import { api, ask } from "../../shared/api";
import { aboutMinutes, clock } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import type { FloorDepartment } from "../../shared/types";
import { useDeskStore, useListed, useMe, useNow, useTeam } from "../desk/provider";
import { ofColleagues } from "../desk/store/lists";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { usePageTitle } from "../kit/page-title";
import { Table } from "../kit/table";
import { handOutWords, stateWords } from "../words/codes";
import { hoursWords } from "../words/hours";
import { sayTrouble } from "../kit/say";

/** The Floor: each department with who waits, for how long, and who is there with how much. */
export default function FloorPage() {
  usePageTitle(t`Floor`);
  const connection = useTeam((s) => s.connection);
  const floor = useQuery({
    queryKey: ["floor"],
    queryFn: () => ask(api.GET("/api/floor")),
    placeholderData: keepPreviousData,
    refetchInterval: 10_000,
    enabled: connection === "live",
  });
  const departments = floor.data?.departments ?? [];
  return (
    <main className="floor">
      <header>
        <h1>
          <Trans>Floor</Trans>
        </h1>
        <p>
          {connection === "live" ? t`Live` : t`No connection. These figures are from before it was lost.`}
        </p>
      </header>
      {floor.isError ? (
        <div className="trouble" role="alert">
          <p>{wordsFor(floor.error)}</p>
          <Button variant="outlined" onClick={() => void floor.refetch()}>
            <Trans>Try again</Trans>
          </Button>
        </div>
      ) : null}
      {floor.isSuccess && departments.length === 0 ? (
        <p className="nothing">
          <Trans>You are not in any department yet. An admin can add you under Setup, Departments.</Trans>
        </p>
      ) : null}
      <div className="halls">
        {departments.map((d) => (
          <Hall key={d.id} department={d} />
        ))}
      </div>
      <InHand />
    </main>
  );
}

const hallWords = { open: t`Open`, busy: t`All busy`, closed: t`Closed` } as const;

function Hall({ department: d }: { department: FloorDepartment }) {
  const now = useNow();
  const longest = d.longestSince ? now - Date.parse(d.longestSince) : 0;
  const target = d.targetSeconds * 1000;
  const urgency =
    d.waiting === 0 ? "calm" : longest > target ? "late" : longest >= d.soonSeconds * 1000 ? "soon" : "calm";
  const primary = d.members.filter((m) => !m.backup);
  const backup = d.members.filter((m) => m.backup);
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
      <dl>
        <div className={urgency}>
          <dt>
            <Trans>Waiting</Trans>
          </dt>
          <dd>
            {urgency === "late" ? <Icons.Warning /> : null}
            {d.waiting}
          </dd>
        </div>
        <div className={urgency}>
          <dt>
            <Trans>Longest wait</Trans>
          </dt>
          <dd>{d.waiting > 0 && d.longestSince ? clock(longest) : t`none`}</dd>
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
        <div>
          <dt>
            <Trans>New visitors right now</Trans>
          </dt>
          <dd>
            {d.state === "open"
              ? d.handOut === "pick"
                ? t`wait to be taken`
                : t`do not wait`
              : d.helpedBy.length > 0
                ? t`go to ${d.helpedBy[0] ?? ""}`
                : d.state === "closed"
                  ? t`leave a message`
                  : d.estimateSeconds > 0
                    ? t`wait ${aboutMinutes(d.estimateSeconds)}`
                    : t`wait`}
          </dd>
        </div>
        <div>
          <dt>
            <Trans>Today</Trans>
          </dt>
          <dd>{d.missed > 0 ? t`${d.today}, ${d.missed} missed` : d.today}</dd>
        </div>
        <div>
          <dt>
            <Trans>Messages left</Trans>
          </dt>
          <dd>{d.messages}</dd>
        </div>
      </dl>
      <ul aria-label={t`Members of ${d.name}`}>
        {[...primary, ...backup].map((m) => (
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
              {m.awayWhy === "passes" ? t`away, missed offers` : stateWords(m.state)}
            </span>
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

/** For leads: the chats that colleagues hold, to watch one. */
function InHand() {
  const store = useDeskStore();
  const me = useMe();
  const now = useNow();
  const navigate = useNavigate();
  const held = useListed(ofColleagues);
  if (me.role === "operator") return null;
  const chats = [...held].sort((a, b) => Date.parse(a.turnSince) - Date.parse(b.turnSince));
  const watch = (id: string) => {
    store.acts.watch(id).then(() => void navigate("/desk"), sayTrouble);
  };
  return (
    <section className="in-hand" aria-labelledby="in-hand-head">
      <h2 id="in-hand-head">
        <Trans>Colleagues’ chats</Trans>
      </h2>
      {chats.length === 0 ? (
        <p className="nothing">
          <Trans>Your colleagues have no chats right now.</Trans>
        </p>
      ) : null}
      {chats.length > 0 ? (
        <Table
          rows={chats}
          keyOf={(c) => c.id}
          columns={[
            { head: t`Visitor`, cell: (c) => <bdi>{c.name || t`Visitor`}</bdi> },
            { head: t`Operator`, cell: (c) => c.ownerName },
            { head: t`Department`, cell: (c) => c.departmentName },
            {
              head: t`Turn`,
              className: "clock",
              cell: (c) =>
                `${c.turn === "team" ? (c.ownerName?.split(" ")[0] ?? t`team`) : t`visitor`} ${clock(now - Date.parse(c.turnSince))}`,
            },
            { head: t`Last message`, className: "last", cell: (c) => <span dir="auto">{c.lastWords}</span> },
            {
              head: t`Watch`,
              silent: true,
              cell: (c) => (
                <Button variant="outlined" startIcon={<Icons.Eye />} onClick={() => watch(c.id)}>
                  <Trans>Watch</Trans>
                </Button>
              ),
            },
          ]}
        />
      ) : null}
    </section>
  );
}
