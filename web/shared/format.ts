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

const hourOnly = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });
const weekdayHour = new Intl.DateTimeFormat("en-GB", { weekday: "long", hour: "2-digit", minute: "2-digit" });
const dateHour = new Intl.DateTimeFormat("en-GB", {
  weekday: "long",
  day: "numeric",
  month: "long",
  hour: "2-digit",
  minute: "2-digit",
});

/** Names a time to come the way people do: the hour today, the weekday within a week, else the date. */
export function whenNext(at: string, now: number): string {
  const time = new Date(at);
  if (time.toDateString() === new Date(now).toDateString()) return `at ${hourOnly.format(time)}`;
  const near = time.getTime() - now < 6.5 * 24 * 3600 * 1000;
  return (near ? weekdayHour : dateHour).format(time).replace(",", "");
}

/** Names a wait in words that promise no more than anybody can keep. */
export function aboutMinutes(seconds: number): string {
  if (seconds <= 60) return "about a minute";
  if (seconds > 60 * 60) return "more than an hour";
  return `about ${Math.ceil(seconds / 60)} minutes`;
}

/** An amount in the smallest unit of its currency: cents of a euro, whole yen. */
interface Amount {
  cents: number;
  currency: string;
}

/** Returns how many digits a currency has behind the point: 2 for euros, none for yen (ISO 4217). */
export function digitsOf(currency: string): number {
  const format = new Intl.NumberFormat("en-GB", { style: "currency", currency });
  return format.resolvedOptions().maximumFractionDigits ?? 2;
}

/** Returns an amount of money, like €412.80. */
export function money({ cents, currency }: Amount): string {
  return new Intl.NumberFormat("en-GB", { style: "currency", currency }).format(
    cents / 10 ** digitsOf(currency),
  );
}

/** Returns an amount as it is typed, like 412.80. */
export function plainAmount({ cents, currency }: Amount): string {
  const digits = digitsOf(currency);
  return (cents / 10 ** digits).toFixed(digits);
}

/** Reads an amount that somebody typed, with point or comma; nothing when it is none of the currency. */
export function centsOf(text: string, currency: string): number | undefined {
  const digits = digitsOf(currency);
  const match = /^\s*(\d{1,9})(?:[.,](\d{1,3}))?\s*$/.exec(text);
  const fraction = match?.[2] ?? "";
  if (!match || fraction.length > digits) return undefined;
  return Number(match[1]) * 10 ** digits + Number(fraction.padEnd(digits, "0") || 0);
}

const wholeDay = new Intl.DateTimeFormat("en-GB", {
  weekday: "long",
  day: "numeric",
  month: "long",
  year: "numeric",
});

/** Returns a day in full, like Thursday, 17 September 2026. */
export function dayOf(at: string | number): string {
  return wholeDay.format(new Date(at));
}

/** Reports whether two times are on the same day here. */
export function sameDay(a: string | number, b: string | number): boolean {
  return new Date(a).toDateString() === new Date(b).toDateString();
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

/** Says how the team stands, for visitors: who is in, or when somebody is. */
export function teamNow(now: { state: string; in: readonly string[]; opensAt?: string }, at: number): string {
  if (now.state === "closed")
    return now.opensAt ? `Closed, back ${whenNext(now.opensAt, at)}` : "Nobody is in right now";
  const [first, ...others] = now.in;
  const who = !first
    ? "The team"
    : others.length === 0
      ? first
      : others.length === 1
        ? `${first} and ${others[0]}`
        : `${first} and ${others.length} others`;
  const are = first && others.length === 0 ? "is" : "are";
  return now.state === "busy" ? `${who} ${are} in, all busy` : `${who} ${are} in`;
}
