import { keepJSON, keptJSON } from "../../../shared/storage";

/** Which chats have a lane, the number of each, and where it stands. */
export interface Lanes {
  numbers: Readonly<Record<string, number>>;
  /** Ids in the order in which the lanes stand. */
  order: readonly string[];
  /** Chats whose lane was taken away; they stay in the line. */
  away: readonly string[];
  /** Lanes that stand in a window of their own. */
  outside: ReadonlySet<string>;
}

const keyOf = (operatorId: string) => `stoop.desk.${operatorId}.lanes`;

/** Returns the lanes that were kept in this browser. */
export function keptLanes(operatorId: string): Lanes {
  const kept = keptJSON<Partial<Omit<Lanes, "outside">> | null>(keyOf(operatorId), null);
  return {
    numbers: kept?.numbers ?? {},
    order: kept?.order ?? [],
    away: kept?.away ?? [],
    outside: new Set(),
  };
}

/** Chats with a number, in the order of their lanes. */
export function numbered({ order, numbers }: Lanes): string[] {
  return order.filter((id) => numbers[id]);
}

/** Chats whose lane may be shown here. */
export function showable(lanes: Lanes): string[] {
  return numbered(lanes).filter((id) => !lanes.away.includes(id) && !lanes.outside.has(id));
}

/**
 * Remembers which chats have a lane, the number of each and where it stands. A
 * chat keeps its number as long as it is on the Desk, so that nobody answers
 * the wrong person.
 */
export class LaneBook {
  private shown: string[] = [];
  private readonly key: string;

  constructor(
    operatorId: string,
    private readonly read: () => Lanes,
    private readonly write: (lanes: Lanes) => void,
  ) {
    this.key = keyOf(operatorId);
  }

  /** Chats with a number, in the order of their lanes. */
  list(): string[] {
    return numbered(this.read());
  }

  /** Chats whose lane may be shown here. */
  showable(): string[] {
    return showable(this.read());
  }

  /** The number of a chat's lane, or 0. */
  numberOf(id: string): number {
    return this.read().numbers[id] ?? 0;
  }

  /** Gives a chat a lane, with the lowest number that is free; one taken away comes back. */
  open(id: string): void {
    const lanes = this.read();
    if (lanes.numbers[id] && !lanes.away.includes(id)) return;
    const numbers = { ...lanes.numbers };
    const order = lanes.order.filter((other) => numbers[other] && other !== id);
    const at = lanes.order.indexOf(id);
    if (!numbers[id]) {
      const used = new Set(Object.values(numbers));
      let number = 1;
      while (used.has(number)) number++;
      numbers[id] = number;
    }
    // A new lane stands where its number would, as long as nobody moved the others.
    const next = order.findIndex((other) => (numbers[other] ?? 0) > (numbers[id] ?? 0));
    order.splice(at >= 0 ? at : next >= 0 ? next : order.length, 0, id);
    this.save({ ...lanes, numbers, order, away: lanes.away.filter((other) => other !== id) });
  }

  /** Forgets a chat's lane and number. */
  close(id: string): void {
    const lanes = this.read();
    if (!lanes.numbers[id]) return;
    this.save({
      ...lanes,
      numbers: Object.fromEntries(Object.entries(lanes.numbers).filter(([key]) => key !== id)),
      order: lanes.order.filter((other) => other !== id),
      away: lanes.away.filter((other) => other !== id),
    });
  }

  /** Takes a lane away; the chat stays in the line with its number. */
  putAway(id: string): void {
    const lanes = this.read();
    if (lanes.numbers[id]) this.save({ ...lanes, away: [...lanes.away, id] });
  }

  /** Moves a lane to the place of another one. */
  move(id: string, to: string): void {
    const lanes = this.read();
    const order = numbered(lanes);
    const from = order.indexOf(id);
    const place = order.indexOf(to);
    if (from < 0 || place < 0 || from === place) return;
    order.splice(from, 1);
    order.splice(place, 0, id);
    this.save({ ...lanes, order });
  }

  /** Takes note of the lanes that stand in windows of their own. */
  setOutside(outside: ReadonlySet<string>): void {
    const lanes = this.read();
    if ([...outside].join() !== [...lanes.outside].join()) this.write({ ...lanes, outside });
  }

  /** Reports whether a lane stands in a window of its own. */
  isOutside(id: string): boolean {
    return this.read().outside.has(id);
  }

  /** Takes note of the lanes that are on screen. */
  setShown(ids: string[]): void {
    this.shown = ids;
  }

  /** Reports whether a chat's lane is on screen. */
  isShown(id: string): boolean {
    return this.shown.includes(id);
  }

  private save(lanes: Lanes): void {
    const { numbers, order, away } = lanes;
    keepJSON(this.key, { numbers, order, away });
    this.write(lanes);
  }
}

/**
 * Chooses which lanes to show when there is room for only some: those that are
 * shown stay where they are, and the one in use takes the place of the one that
 * was used longest ago.
 */
export function chooseLanes(all: string[], shown: string[], used: string[], room: number): string[] {
  if (all.length <= room) return all;
  const inUse = used[0];
  let keep = shown.filter((id) => all.includes(id));
  for (const id of all) if (keep.length < room && !keep.includes(id)) keep.push(id);
  if (inUse && all.includes(inUse) && !keep.includes(inUse)) keep = [...keep, inUse];
  while (keep.length > room) {
    const byUse = [...keep].sort((a, b) => rank(used, b) - rank(used, a));
    const drop = byUse[0];
    keep = keep.filter((id) => id !== drop);
  }
  return all.filter((id) => keep.includes(id));
}

function rank(used: string[], id: string): number {
  const at = used.indexOf(id);
  return at < 0 ? used.length : at;
}
