import "./floor.css";

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
import { sayTrouble } from "../kit/say";

/** The Floor: each department with who waits, for how long, and who is there with how much. */
export default function FloorPage() {
  usePageTitle("Floor");
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
        <h1>Floor</h1>
        <p>{connection === "live" ? "Live" : "No connection. These figures are from before it was lost."}</p>
      </header>
      {floor.isError ? (
        <div className="trouble" role="alert">
          <p>{wordsFor(floor.error)}</p>
          <Button variant="outlined" onClick={() => void floor.refetch()}>
            Try again
          </Button>
        </div>
      ) : null}
      {floor.isSuccess && departments.length === 0 ? (
        <p className="nothing">
          You are not in any department yet. An admin can add you under Setup, Departments.
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

const stateWords = { open: "Open", busy: "All busy", closed: "Closed" } as const;

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
          {d.state === "closed" && d.hoursOpen ? "Nobody in" : stateWords[d.state]}
        </span>
      </header>
      <p className="hours">
        {d.hours}
        {" · "}
        {
          { pick: "operators pick chats", offer: "chats are offered", assign: "chats are assigned" }[
            d.handOut
          ]
        }
      </p>
      <dl>
        <div className={urgency}>
          <dt>Waiting</dt>
          <dd>
            {urgency === "late" ? <Icons.Warning /> : null}
            {d.waiting}
          </dd>
        </div>
        <div className={urgency}>
          <dt>Longest wait</dt>
          <dd>{d.waiting > 0 && d.longestSince ? clock(longest) : "none"}</dd>
        </div>
        <div>
          <dt>In hand</dt>
          <dd>
            {d.load} of {d.slots}
          </dd>
        </div>
        <div>
          <dt>New visitors right now</dt>
          <dd>
            {d.state === "open"
              ? d.handOut === "pick"
                ? "wait to be taken"
                : "do not wait"
              : d.helpedBy.length > 0
                ? `go to ${d.helpedBy[0]}`
                : d.state === "closed"
                  ? "leave a message"
                  : d.estimateSeconds > 0
                    ? `wait ${aboutMinutes(d.estimateSeconds)}`
                    : "wait"}
          </dd>
        </div>
        <div>
          <dt>Today</dt>
          <dd>
            {d.today}
            {d.missed > 0 ? `, ${d.missed} missed` : ""}
          </dd>
        </div>
        <div>
          <dt>Messages left</dt>
          <dd>{d.messages}</dd>
        </div>
      </dl>
      <ul aria-label={`Members of ${d.name}`}>
        {[...primary, ...backup].map((m) => (
          <li key={m.id} className={m.state}>
            <span className="who cut">
              {m.name}
              {m.backup ? <i> backup</i> : null}
            </span>
            <Slots load={m.load} offered={m.offered} capacity={m.capacity} />
            <span className="figures">
              {m.load} of {m.capacity}
            </span>
            <span className="word">
              {m.state}
              {m.awayWhy === "passes" ? ", missed offers" : ""}
            </span>
          </li>
        ))}
      </ul>
      {d.members.length === 0 ? <p className="nothing">No members yet.</p> : null}
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
      <h2 id="in-hand-head">Colleagues’ chats</h2>
      {chats.length === 0 ? <p className="nothing">Your colleagues have no chats right now.</p> : null}
      {chats.length > 0 ? (
        <Table
          rows={chats}
          keyOf={(c) => c.id}
          columns={[
            { head: "Visitor", cell: (c) => <bdi>{c.name || "Visitor"}</bdi> },
            { head: "Operator", cell: (c) => c.ownerName },
            { head: "Department", cell: (c) => c.departmentName },
            {
              head: "Turn",
              className: "clock",
              cell: (c) =>
                `${c.turn === "team" ? (c.ownerName?.split(" ")[0] ?? "team") : "visitor"} ${clock(now - Date.parse(c.turnSince))}`,
            },
            { head: "Last message", className: "last", cell: (c) => <span dir="auto">{c.lastWords}</span> },
            {
              head: "Watch",
              silent: true,
              cell: (c) => (
                <Button variant="outlined" startIcon={<Icons.Eye />} onClick={() => watch(c.id)}>
                  Watch
                </Button>
              ),
            },
          ]}
        />
      ) : null}
    </section>
  );
}
