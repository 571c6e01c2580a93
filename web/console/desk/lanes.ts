import { keepJSON, keptJSON } from "../../shared/storage";

interface Kept {
  numbers: Record<string, number>;
  /** Ids in the order in which the lanes stand. */
  order: string[];
  /** Chats whose lane was taken away; they stay in the line. */
  away: string[];
}

/**
 * Remembers which chats have a lane, the number of each and where it stands. A
 * chat keeps its number as long as it is on the Desk, so that nobody answers
 * the wrong person.
 */
export class LaneBook {
  private book: Kept;
  private shown: string[] = [];
  /** Lanes that stand in a window of their own. */
  private outside: ReadonlySet<string> = new Set();

  constructor(
    operatorId: string,
    private readonly changed: () => void,
    private readonly key = `stoop.desk.${operatorId}.lanes`,
  ) {
    const kept = keptJSON<Partial<Kept> | null>(this.key, null);
    this.book = { numbers: kept?.numbers ?? {}, order: kept?.order ?? [], away: kept?.away ?? [] };
  }

  /** Chats with a number, in the order of their lanes. */
  list(): string[] {
    return this.book.order.filter((id) => this.book.numbers[id]);
  }

  /** Chats whose lane may be shown here. */
  showable(): string[] {
    return this.list().filter((id) => !this.book.away.includes(id) && !this.outside.has(id));
  }

  /** The number of a chat's lane, or 0. */
  numberOf(id: string): number {
    return this.book.numbers[id] ?? 0;
  }

  /** Gives a chat a lane, with the lowest number that is free; one taken away comes back. */
  open(id: string): void {
    if (this.book.numbers[id] && !this.book.away.includes(id)) return;
    const numbers = { ...this.book.numbers };
    const order = this.book.order.filter((other) => numbers[other] && other !== id);
    const at = this.book.order.indexOf(id);
    if (!numbers[id]) {
      const used = new Set(Object.values(numbers));
      let number = 1;
      while (used.has(number)) number++;
      numbers[id] = number;
    }
    // A new lane stands where its number would, as long as nobody moved the others.
    const next = order.findIndex((other) => (numbers[other] ?? 0) > (numbers[id] ?? 0));
    order.splice(at >= 0 ? at : next >= 0 ? next : order.length, 0, id);
    this.save({ numbers, order, away: this.book.away.filter((other) => other !== id) });
  }

  /** Forgets a chat's lane and number. */
  close(id: string): void {
    if (!this.book.numbers[id]) return;
    this.save({
      numbers: Object.fromEntries(Object.entries(this.book.numbers).filter(([key]) => key !== id)),
      order: this.book.order.filter((other) => other !== id),
      away: this.book.away.filter((other) => other !== id),
    });
  }

  /** Takes a lane away; the chat stays in the line with its number. */
  putAway(id: string): void {
    if (this.book.numbers[id]) this.save({ ...this.book, away: [...this.book.away, id] });
  }

  /** Moves a lane to the place of another one. */
  move(id: string, to: string): void {
    const order = this.list();
    const from = order.indexOf(id);
    const place = order.indexOf(to);
    if (from < 0 || place < 0 || from === place) return;
    order.splice(from, 1);
    order.splice(place, 0, id);
    this.save({ ...this.book, order });
  }

  /** Takes note of the lanes that stand in windows of their own. */
  setOutside(ids: ReadonlySet<string>): void {
    if ([...ids].join() === [...this.outside].join()) return;
    this.outside = ids;
    this.changed();
  }

  /** Reports whether a lane stands in a window of its own. */
  isOutside(id: string): boolean {
    return this.outside.has(id);
  }

  /** Takes note of the lanes that are on screen. */
  setShown(ids: string[]): void {
    this.shown = ids;
  }

  /** Reports whether a chat's lane is on screen. */
  isShown(id: string): boolean {
    return this.shown.includes(id);
  }

  private save(book: Kept): void {
    this.book = book;
    keepJSON(this.key, book);
    this.changed();
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
