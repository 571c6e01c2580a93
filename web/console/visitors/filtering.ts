import type { Look } from "../../shared/types";

/** Lists in the address, by their name there. */
const lists = ["state", "country", "department", "source", "topic"] as const;

/** Reads from the address whom to look at, and in which order. */
export function lookOf(address: URLSearchParams): Omit<Look, "id" | "from" | "to"> {
  const group = address.get("group") ?? "page";
  const folded = foldedIn(address);
  const [states, countries, departments, sources, topics] = lists.map((name) => listIn(address, name));
  return {
    search: address.get("words") ?? "",
    states: (states ?? []) as NonNullable<Look["states"]>,
    countries: countries ?? [],
    departments: departments ?? [],
    sources: sources ?? [],
    topics: topics ?? [],
    place: address.get("place") ?? "",
    basket: (address.get("basket") as Look["basket"]) ?? "any",
    visits: (address.get("visits") as Look["visits"]) ?? "any",
    group: (group === "none" ? "" : group) as NonNullable<Look["group"]>,
    folded,
    sort: (address.get("sort") ?? "interest") as NonNullable<Look["sort"]>,
    up: address.get("up") === "1",
  };
}

/** Reads a list from the address. */
export function listIn(address: URLSearchParams, name: string): string[] {
  return (address.get(name) ?? "").split("|").filter(Boolean);
}

// An address may have been cut off where it was copied.
function foldedIn(address: URLSearchParams): string[] {
  try {
    const folded: unknown = JSON.parse(address.get("folded") ?? "[]");
    return Array.isArray(folded) ? folded.filter((key) => typeof key === "string") : [];
  } catch {
    return [];
  }
}
