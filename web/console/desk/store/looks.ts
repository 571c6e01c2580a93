import { createStore, type StoreApi } from "zustand/vanilla";

import type { Live } from "../../../shared/live";
import type { GroupView, GuestView, Look, SiteMoved, SpotView, TeamMessage } from "../../../shared/types";

/** What is seen of those on the sites. A new object for each change. */
export interface Seen {
  /** All of it is there. */
  loaded: boolean;
  /** On the sites, and of those how many the look is for. */
  total: number;
  found: number;
  waiting: number;
  inChat: number;
  /** How long the list is, with its groups. */
  lines: number;
  /** Who came while the list must not move, and does not stand in it. */
  fresh: number;
  /** The place of the first line that is known. */
  from: number;
  order: readonly string[];
  guests: ReadonlyMap<string, GuestView>;
  groups: ReadonlyMap<string, GroupView>;
  spots: readonly SpotView[];
  open: SiteMoved["open"];
}

/** What is seen before anything came. */
export const nobody: Seen = {
  loaded: false,
  total: 0,
  found: 0,
  waiting: 0,
  inChat: 0,
  lines: 0,
  fresh: 0,
  from: 0,
  order: [],
  guests: new Map(),
  groups: new Map(),
  spots: [],
  open: undefined,
};

interface Looking {
  look: Look;
  number: number;
  seen: StoreApi<Seen>;
  /** The server has not been told of it yet. */
  untold: boolean;
}

/** Looks at those on the sites: the server says what is in view, and then what changes of it. */
export class Looks {
  /** How many are on the sites, as long as somebody looks; else nothing newer is known than figures. */
  readonly onSite = createStore<{ total: number | undefined }>(() => ({ total: undefined }));
  private readonly looking = new Map<string, Looking>();

  constructor(private readonly live: () => Live<TeamMessage>) {}

  /** Returns what is seen under a name. */
  seen(id: string): StoreApi<Seen> {
    return this.of(id).seen;
  }

  private of(id: string): Looking {
    let one = this.looking.get(id);
    if (!one) {
      one = {
        look: { id, from: 0, to: 0 },
        number: 0,
        seen: createStore<Seen>(() => nobody),
        untold: true,
      };
      this.looking.set(id, one);
    }
    return one;
  }

  /** Begins to look, or looks at something else. */
  look(look: Look): void {
    const one = this.of(look.id);
    one.look = look;
    this.ask(one);
  }

  /** Looks no more; what was seen is kept for the next time. */
  end(id: string): void {
    const one = this.looking.get(id);
    if (!one || one.untold) return;
    one.untold = true;
    one.number = 0;
    if ([...this.looking.values()].every((l) => l.untold)) this.onSite.setState({ total: undefined });
    this.live()
      .call("unlook", { id })
      .catch(() => undefined); // the connection is gone, and the look with it
  }

  private ask(one: Looking, anew = false): void {
    one.untold = false;
    this.live()
      .call("look", anew ? { ...one.look, anew } : one.look)
      .catch(() => undefined); // asked for again after the next connect
  }

  /** The connection came up: what was missed is asked for. */
  connected(): void {
    for (const one of this.looking.values()) {
      one.number = 0;
      if (!one.untold) this.ask(one, true);
    }
  }

  /** Takes in what changed. */
  receive(m: SiteMoved): void {
    const one = this.looking.get(m.look);
    if (!one || one.untold) return;
    const whole = m.number === 1;
    if (!whole && m.number !== one.number + 1) {
      // Something is missing: all of it is asked for, once.
      if (one.number > 0) {
        one.number = 0;
        this.ask(one, true);
      }
      return;
    }
    one.number = m.number;
    one.seen.setState((before) => after(before, m, whole));
    this.onSite.setState({ total: m.total });
  }
}

/** Returns what is seen after a change. */
function after(before: Seen, m: SiteMoved, whole: boolean): Seen {
  const order = m.ordered ? (m.order ?? []) : before.order;
  let { guests, groups } = before;
  if (m.guests || m.ordered) {
    const known = new Map<string, GuestView>(whole ? [] : guests);
    for (const guest of m.guests ?? []) known.set(guest.id, guest);
    if (m.ordered) {
      const stands = new Set(order);
      for (const id of known.keys()) if (!stands.has(id)) known.delete(id);
    }
    guests = known;
  }
  if (m.groups || whole) {
    const known = new Map<string, GroupView>(whole ? [] : groups);
    for (const group of m.groups ?? []) known.set(group.key, group);
    groups = known;
  }
  const { total, found, waiting, inChat, lines, fresh, from } = m;
  return {
    loaded: true,
    total,
    found,
    waiting,
    inChat,
    lines,
    fresh,
    from: m.ordered ? from : before.from,
    order,
    guests,
    groups,
    spots: m.marked ? (m.marks ?? []) : before.spots,
    open: m.open ?? (whole ? undefined : before.open),
  };
}
