import { keepJSON, keptJSON } from "../../shared/storage";

/**
 * Remembers which chats have a lane and the number of each. A chat keeps its
 * number as long as it is on the Desk, so that nobody answers the wrong person.
 */
export class LaneBook {
  private numbers: Record<string, number>;
  private shown: string[] = [];

  constructor(
    operatorId: string,
    private readonly changed: () => void,
    private readonly key = `stoop.desk.${operatorId}.lanes`,
  ) {
    this.numbers = keptJSON<Record<string, number>>(this.key, {});
  }

  /** Chats with a lane, by number. */
  list(): string[] {
    return Object.keys(this.numbers).sort((a, b) => this.numberOf(a) - this.numberOf(b));
  }

  /** The number of a chat's lane, or 0. */
  numberOf(id: string): number {
    return this.numbers[id] ?? 0;
  }

  /** Gives a chat a lane, with the lowest number that is free. */
  open(id: string): void {
    if (this.numbers[id]) return;
    const used = new Set(Object.values(this.numbers));
    let number = 1;
    while (used.has(number)) number++;
    this.save({ ...this.numbers, [id]: number });
  }

  close(id: string): void {
    if (!this.numbers[id]) return;
    this.save(Object.fromEntries(Object.entries(this.numbers).filter(([key]) => key !== id)));
  }

  /** Takes note of the lanes that are on screen. */
  setShown(ids: string[]): void {
    this.shown = ids;
  }

  /** Reports whether a chat's lane is on screen. */
  isShown(id: string): boolean {
    return this.shown.includes(id);
  }

  private save(numbers: Record<string, number>): void {
    this.numbers = numbers;
    keepJSON(this.key, numbers);
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
