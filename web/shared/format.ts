/** Returns seconds as m:ss or h:mm:ss, never negative. */
export function clock(milliseconds: number): string {
  const total = Math.max(0, Math.floor(milliseconds / 1000));
  const hours = Math.floor(total / 3600);
  const minutes = Math.floor((total % 3600) / 60);
  const seconds = String(total % 60).padStart(2, "0");
  return hours > 0 ? `${hours}:${String(minutes).padStart(2, "0")}:${seconds}` : `${minutes}:${seconds}`;
}

const hourMinute = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });
const dayHour = new Intl.DateTimeFormat("en-GB", {
  weekday: "short",
  day: "numeric",
  month: "short",
  hour: "2-digit",
  minute: "2-digit",
});

/** Returns the time of day. */
export function timeOfDay(at: string | number): string {
  return hourMinute.format(new Date(at));
}

/** Returns day and time of day. */
export function dayAndTime(at: string | number): string {
  return dayHour.format(new Date(at));
}

/** Counts characters as people and the server do, not as UTF-16 units. */
export function characters(text: string): number {
  let n = 0;
  for (const character of text) n += character.length > 0 ? 1 : 0;
  return n;
}

/** Returns one name: the first word, or what stands for somebody unnamed. */
export function firstName(name: string, fallback = "Visitor"): string {
  return name.trim().split(/\s+/)[0] || fallback;
}

/** Returns up to two initials. */
export function initials(name: string): string {
  const words = name.trim().split(/\s+/).filter(Boolean);
  const letters = [words[0], words.length > 1 ? words.at(-1) : undefined].map((w) => (w ? [...w][0] : ""));
  return letters.join("").toUpperCase() || "?";
}

/** Says who of the team is in, for visitors. */
export function whoIsIn(names: readonly string[]): string {
  const [first, ...others] = names;
  if (!first) return "Nobody is in right now";
  if (others.length === 0) return `${first} is in`;
  if (others.length === 1) return `${first} and ${others[0]} are in`;
  return `${first} and ${others.length} others are in`;
}
