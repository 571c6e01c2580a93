// Which chats are meant, as it stands in the address of reports and transcripts alike.
import type { operations } from "../../shared/api.gen";

/** What the server is asked for. */
export type Asked = NonNullable<operations["report"]["parameters"]["query"]>;

const texts = [
  "from",
  "to",
  "zone",
  "ending",
  "missed",
  "rated",
  "handedOn",
  "invited",
  "sold",
  "inTarget",
] as const;
const numbers = [
  "weekday",
  "hour",
  "waitFrom",
  "waitTo",
  "firstFrom",
  "firstTo",
  "linesFrom",
  "linesTo",
] as const;
const lists = [
  "department",
  "operator",
  "widget",
  "tag",
  "outcome",
  "country",
  "rule",
  "page",
  "source",
] as const;

/** All names by which the address narrows what is meant. */
export const names = [...texts, ...numbers, ...lists, "rating"] as const;

/** Something by which the address narrows what is meant. */
export type Name = (typeof names)[number];

/** Reads what is meant from an address; what is no number is left out. */
export function askedOf(address: URLSearchParams): Asked {
  const asked: Record<string, unknown> = {};
  for (const name of texts) if (address.get(name)) asked[name] = address.get(name);
  for (const name of numbers) {
    const text = address.get(name);
    if (text && /^\d{1,7}$/.test(text)) asked[name] = Number(text);
  }
  for (const name of lists) if (address.getAll(name).length > 0) asked[name] = address.getAll(name);
  const ratings = address
    .getAll("rating")
    .map(Number)
    .filter((n) => n >= 1 && n <= 5);
  if (ratings.length > 0) asked["rating"] = ratings;
  return asked as Asked;
}

/** Returns where the chats behind a figure are: those of an address, narrowed further. */
export function chatsBehind(address: URLSearchParams, more: Partial<Record<Name, string>>): string {
  const to = new URLSearchParams();
  for (const name of names) {
    for (const value of address.getAll(name)) to.append(name, value);
  }
  for (const [name, value] of Object.entries(more)) {
    // Of what may be narrowed twice, the figure's own part is meant.
    if (value) to.set(name, value);
  }
  return `/transcripts?${to.toString()}`;
}
