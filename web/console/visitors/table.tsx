import "./table.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { memo, useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent } from "react";

import type { GroupView, GuestView, Look } from "../../shared/types";
import { secondOf, StandingClock, useDeskStore, usePreferences } from "../desk/provider";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { useVirtualLines } from "../kit/virtual-lines";
import { useNarrow } from "../kit/narrow";
import { chosenColumns, type GuestColumn } from "./columns";
import { useLooking, useSeen } from "../guests/looking";
import { basketMoney } from "../guests/basket-money";
import { countryName, guestName, siteStateWords, sourceKind } from "../guests/words";

const height = 30; // of a line, in pixels
const around = 60; // lines that are known beyond those in view

interface Props {
  screen: string;
  /** What is looked at, but for which lines. */
  asked: Omit<Look, "from" | "to" | "steady">;
  open: string;
  /** Changes what stands in the address. */
  change: (part: Record<string, string>) => void;
  filtered: boolean;
}

/**
 * Everybody on the sites, as many as there are: only the lines in view are here, the
 * rest stays on the server. Nothing moves while somebody points at it.
 */
export function GuestTable({ screen, asked, open, change, filtered }: Props) {
  // Which lines are in view changes as fast as one scrolls; only this table needs it.
  const [range, setRange] = useState({ from: 0, to: 100 });
  const [steady, setSteady] = useState(false);
  const look: Look = { ...asked, ...range, steady };
  useLooking(look);
  const show = (id: string) => change({ visitor: id === open ? "" : id });
  const sort = (by: string, up: boolean) => change({ sort: by === "interest" ? "" : by, up: up ? "1" : "" });
  const fold = (key: string) => {
    const folded = new Set(asked.folded ?? []);
    if (!folded.delete(key)) folded.add(key);
    change({ folded: folded.size > 0 ? JSON.stringify([...folded]) : "" });
  };
  const loaded = useSeen(screen, (s) => s.loaded);
  const lines = useSeen(screen, (s) => s.lines);
  const from = useSeen(screen, (s) => s.from);
  const order = useSeen(screen, (s) => s.order);
  const guests = useSeen(screen, (s) => s.guests);
  const groups = useSeen(screen, (s) => s.groups);
  const fresh = useSeen(screen, (s) => s.fresh);
  const kept = usePreferences((s) => s.preferences.siteColumns);
  const narrow = useNarrow();
  const columns = useMemo(() => chosenColumns(kept, narrow), [kept, narrow]);
  const scroller = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(-1); // the line that the keyboard is on
  const { drawn, total, scrolling, goTo } = useVirtualLines(scroller, lines, height);
  const desk = useDeskStore();
  const standing = useRef<number>(undefined);
  useEffect(() => {
    standing.current = scrolling ? secondOf(desk.now()) : undefined;
  }, [scrolling, desk]);
  const first = drawn[0]?.index ?? 0;
  const last = drawn.at(-1)?.index ?? 0;
  // More is asked for before the end of what is known comes into view.
  const near = around / 3;
  const enough =
    (first - near >= range.from || range.from === 0) && (last + near <= range.to || range.to >= lines);
  if (!enough) setRange({ from: Math.max(0, first - around), to: last + around });

  const lineAt = (index: number): string | undefined => order[index - from];
  const press = (index: number) => {
    const line = lineAt(index);
    if (line === undefined) return;
    if (line.startsWith("#")) fold(line.slice(1));
    else show(line);
  };
  const latest = useRef(press);
  useEffect(() => {
    latest.current = press;
  });
  // The same function for as long as the table is there: lines that stay are not drawn anew.
  const pressed = useCallback((index: number) => {
    setAt(index);
    latest.current(index);
  }, []);
  const onKey = (event: KeyboardEvent) => {
    const page = Math.max(1, Math.floor((scroller.current?.clientHeight ?? 300) / height) - 2);
    const steps: Record<string, number> = {
      ArrowDown: at + 1,
      ArrowUp: at - 1,
      PageDown: at + page,
      PageUp: at - page,
      Home: 0,
      End: lines - 1,
    };
    const to = steps[event.key];
    if (to !== undefined) {
      event.preventDefault();
      const next = Math.min(Math.max(to, 0), lines - 1);
      setAt(next);
      goTo(next);
    } else if ((event.key === "Enter" || event.key === " ") && at >= 0) {
      event.preventDefault();
      press(at);
    }
  };
  const tracks = columns.map((c) => c.width).join(" ");
  const active = at >= 0 && at < lines ? `guest-line-${at}` : undefined;
  return (
    <div
      className="guest-table"
      role="grid"
      aria-label={t`Visitors`}
      aria-rowcount={lines + 1}
      style={{ "--tracks": tracks } as never}
      onPointerEnter={() => setSteady(true)}
      onPointerLeave={() => setSteady(false)}
    >
      <div className="heads" role="row">
        {columns.map((c) => (
          <span
            key={c.id}
            role="columnheader"
            className={c.figure ? "figure" : ""}
            aria-sort={c.sort && look.sort === c.sort ? (look.up ? "ascending" : "descending") : undefined}
          >
            {c.sort ? (
              <button
                onClick={() => sort(c.sort ?? "", look.sort === c.sort ? !look.up : false)}
                className={look.sort === c.sort ? "by" : ""}
              >
                {c.head}
                {look.sort === c.sort ? (
                  <span className={look.up ? "turn up" : "turn"}>
                    <Icons.Down />
                  </span>
                ) : null}
              </button>
            ) : (
              c.head
            )}
          </span>
        ))}
      </div>
      <div
        className="lines"
        ref={scroller}
        tabIndex={0}
        role="rowgroup"
        aria-label={t`Visitors; arrow keys move, Enter opens`}
        aria-activedescendant={active}
        onKeyDown={onKey}
        onFocus={() => setAt((i) => (i < 0 ? 0 : i))}
      >
        <div style={{ blockSize: total, position: "relative" }}>
          <StandingClock value={standing}>
            {drawn.map(({ index, start }) => {
              const line = lineAt(index);
              return (
                <TableLine
                  key={line ?? index}
                  index={index}
                  start={start}
                  group={line?.startsWith("#") ? groups.get(line.slice(1)) : undefined}
                  guest={line === undefined ? undefined : guests.get(line)}
                  by={look.group ?? ""}
                  open={line === open}
                  at={index === at}
                  columns={columns}
                  press={pressed}
                />
              );
            })}
          </StandingClock>
        </div>
        {loaded && lines === 0 ? (
          <p className="nothing">
            {filtered
              ? t`Nobody here fits these filters.`
              : t`Nobody is on the site right now. Whoever opens a page with the chat on it appears here within a second.`}
          </p>
        ) : null}
      </div>
      {steady && fresh > 0 ? (
        <Button variant="outlined" className="fresh" onClick={() => setSteady(false)}>
          {plural(fresh, { one: "Show # more who came", other: "Show # more who came" })}
        </Button>
      ) : null}
    </div>
  );
}

interface LineProps {
  index: number;
  start: number;
  group: GroupView | undefined;
  guest: GuestView | undefined;
  by: string;
  open: boolean;
  at: boolean;
  columns: GuestColumn[];
  press: (index: number) => void;
}

/** One line of the table; while one scrolls, those that stay are not touched. */
const TableLine = memo(function TableLine(props: LineProps) {
  const { index, start, group, guest, by, open, at, columns, press } = props;
  const classes = ["line"];
  if (group) classes.push("group");
  if (guest && open) classes.push("open");
  if (at) classes.push("at");
  if (guest) classes.push(guest.state);
  return (
    <div
      id={`guest-line-${index}`}
      role="row"
      aria-rowindex={index + 2}
      className={classes.join(" ")}
      style={{ transform: `translateY(${start}px)` }}
      onClick={() => press(index)}
    >
      {group ? (
        <GroupLine group={group} by={by} />
      ) : guest ? (
        <GuestLine guest={guest} columns={columns} />
      ) : (
        <span role="gridcell" className="unknown" aria-busy="true" />
      )}
    </div>
  );
});

const GuestLine = memo(function GuestLine({ guest, columns }: { guest: GuestView; columns: GuestColumn[] }) {
  return (
    <>
      {columns.map((c, i) => (
        <span
          key={c.id}
          role={i === 0 ? "rowheader" : "gridcell"}
          className={c.figure ? "figure clock" : ""}
          title={c.id === "page" ? guest.pageUrl : c.id === "name" ? guestName(guest) : undefined}
        >
          {c.cell(guest)}
        </span>
      ))}
    </>
  );
});

function GroupLine({ group, by }: { group: GroupView; by: string }) {
  const parts = [
    group.cents > 0
      ? t`${basketMoney({ cents: group.cents, currency: group.currency ?? "" })} in baskets`
      : "",
    group.waiting > 0 ? plural(group.waiting, { one: "# waiting", other: "# waiting" }) : "",
    group.inChat > 0 ? plural(group.inChat, { one: "# in a chat", other: "# in a chat" }) : "",
  ].filter(Boolean);
  return (
    <span role="gridcell" className="group-line">
      <span className={group.folded ? "turn folded" : "turn"}>
        <Icons.Down />
      </span>
      <b className="cut" dir="auto">
        {groupName(group, by)}
      </b>
      <span className="count">{group.count}</span>
      <span className="sums">{parts.join(", ")}</span>
      <span className="sr-only">{group.folded ? <Trans>folded</Trans> : <Trans>unfolded</Trans>}</span>
    </span>
  );
}

function groupName(group: GroupView, by: string): string {
  switch (by) {
    case "country":
      return countryName(group.key) || t`Place not known`;
    case "source":
      return sourceKind(group.key);
    case "state":
      return siteStateWords(group.key);
    case "department":
      return group.key || t`No department`;
    default:
      return group.label || group.key || t`Page not known`;
  }
}
