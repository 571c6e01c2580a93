import { plural, t } from "@lingui/core/macro";
import type { ReactNode } from "react";

import { clock } from "../../shared/format";
import type { GuestView } from "../../shared/types";
import { useMe, useNow } from "../desk/provider";
import { Icons } from "../icons";
import { basketMoney } from "../guests/basket-money";
import { deviceWords, doingWords, guestName, placeWords, sourceWords } from "../guests/words";

/** A column of the visitors. */
export interface GuestColumn {
  id: string;
  head: string;
  /** By which it is put in order. */
  sort?: string;
  /** Cannot be left out. */
  always?: boolean;
  /** Not shown until it is chosen. */
  extra?: boolean;
  /** How wide, as a track of a grid. */
  width: string;
  figure?: boolean;
  cell: (guest: GuestView) => ReactNode;
}

/** All columns in their order. */
export const allColumns: GuestColumn[] = [
  {
    id: "name",
    head: t`Visitor`,
    sort: "name",
    always: true,
    width: "minmax(92px, 1.2fr)",
    cell: (g) => (
      <span className={g.name ? "cut named" : "cut"}>
        <bdi>{guestName(g)}</bdi>
      </span>
    ),
  },
  {
    id: "place",
    head: t`Place`,
    sort: "place",
    width: "minmax(68px, 0.8fr)",
    cell: (g) => <span className="cut">{placeWords(g.place)}</span>,
  },
  {
    id: "page",
    head: t`Page now, for`,
    sort: "page",
    width: "minmax(112px, 1.6fr)",
    cell: (g) => (
      <span className="page-now">
        <span className="cut" dir="auto">
          {g.pageTitle || g.pageUrl}
        </span>
        <Since at={g.pageSince} />
      </span>
    ),
  },
  { id: "pages", head: t`Pages`, sort: "pages", width: "42px", figure: true, cell: (g) => g.pages },
  {
    id: "time",
    head: t`On site`,
    sort: "time",
    width: "54px",
    figure: true,
    cell: (g) => <Since at={g.startedAt} />,
  },
  {
    id: "source",
    head: t`Came from`,
    sort: "source",
    width: "minmax(72px, 0.9fr)",
    cell: (g) => (
      <span className="cut" dir="auto">
        {sourceWords(g.source)}
      </span>
    ),
  },
  { id: "visits", head: t`Visits`, sort: "visits", width: "40px", figure: true, cell: (g) => g.visits },
  {
    id: "interest",
    head: t`Interest`,
    sort: "interest",
    width: "74px",
    figure: true,
    cell: (g) => <Interest score={g.score} />,
  },
  {
    id: "basket",
    head: t`Basket`,
    sort: "basket",
    width: "74px",
    figure: true,
    cell: (g) => (g.basket ? basketMoney(g.basket) : ""),
  },
  {
    id: "topics",
    head: t`Topics`,
    extra: true,
    width: "minmax(100px, 1fr)",
    cell: (g) => <span className="cut">{g.topics.join(", ")}</span>,
  },
  {
    id: "department",
    head: t`Department`,
    extra: true,
    width: "minmax(90px, 0.8fr)",
    cell: (g) => <span className="cut">{g.department}</span>,
  },
  {
    id: "device",
    head: t`Device`,
    extra: true,
    width: "minmax(90px, 0.8fr)",
    cell: (g) => (
      <span className="cut">{[deviceWords(g.device.kind), g.device.browser].filter(Boolean).join(", ")}</span>
    ),
  },
  { id: "language", head: t`Language`, extra: true, width: "70px", cell: (g) => g.language },
  { id: "chats", head: t`Chats`, extra: true, width: "50px", figure: true, cell: (g) => g.chats },
  {
    id: "state",
    head: t`State`,
    sort: "state",
    always: true,
    width: "minmax(106px, 1fr)",
    cell: (g) => <Doing guest={g} />,
  },
];

/** The columns that somebody wants, or the usual ones. */
export function chosenColumns(kept: readonly string[] | undefined, narrow = false): GuestColumn[] {
  if (narrow) return allColumns.filter((c) => onPhones.has(c.id));
  return allColumns.filter((c) => c.always || (kept ? kept.includes(c.id) : !c.extra));
}

// The others stand in the sheet of a visitor, one tap away.
const onPhones = new Set(["name", "page", "state"]);

/** How long something has lasted. */
export function Since({ at }: { at: string }) {
  const now = useNow();
  return <span className="clock">{clock(now - Date.parse(at))}</span>;
}

/** A score, as a figure and as a bar. */
export function Interest({ score }: { score: number }) {
  return (
    <span className="interest" title={plural(score, { one: "# of 100", other: "# of 100" })}>
      {score}
      <span className="bar" aria-hidden="true">
        <i style={{ inlineSize: `${score}%` }} />
      </span>
    </span>
  );
}

const shapes = {
  browsing: Icons.Page,
  idle: Icons.Pause,
  invited: Icons.Door,
  waiting: Icons.Hourglass,
  chat: Icons.Table,
  message: Icons.Letter,
  gone: Icons.Close,
};

/** What somebody does, in a shape and in words. */
export function Doing({ guest }: { guest: GuestView }) {
  const me = useMe();
  const now = useNow();
  const Shape = shapes[guest.state];
  return (
    <span className={`doing ${guest.state}`}>
      <Shape /> <span className="cut">{doingWords(guest, me.id, now)}</span>
    </span>
  );
}
