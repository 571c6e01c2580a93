import { t } from "@lingui/core/macro";

import { locale } from "./speak";

/** Returns seconds as m:ss or h:mm:ss, never negative. */
export function clock(milliseconds: number): string {
  const total = Math.max(0, Math.floor(milliseconds / 1000));
  const hours = Math.floor(total / 3600);
  const minutes = Math.floor((total % 3600) / 60);
  const seconds = String(total % 60).padStart(2, "0");
  return hours > 0 ? `${hours}:${String(minutes).padStart(2, "0")}:${seconds}` : `${minutes}:${seconds}`;
}

// The zone in which times are told; the reader's own until the team's is known.
let zone: string | undefined;

/** Tells times in a zone from now on, such as Europe/Oslo. */
export function tellTimesIn(timeZone: string): void {
  zone = timeZone;
  formats.clear();
}

const formats = new Map<string, Intl.DateTimeFormat>();

// Returns a format in the language that is spoken, made once.
function format(options: Intl.DateTimeFormatOptions, timeZone = zone): Intl.DateTimeFormat {
  const key = `${locale()} ${timeZone} ${JSON.stringify(options)}`;
  let made = formats.get(key);
  if (!made) {
    made = new Intl.DateTimeFormat(locale(), { ...options, timeZone });
    formats.set(key, made);
  }
  return made;
}

const hour = { hour: "2-digit", minute: "2-digit" } as const;

/** Returns the time of day. */
export function timeOfDay(at: string | number, timeZone = zone): string {
  return format(hour, timeZone).format(new Date(at));
}

/** Returns day and time of day. */
export function dayAndTime(at: string | number): string {
  return format({ weekday: "short", day: "numeric", month: "short", ...hour }).format(new Date(at));
}

/** Returns a day in full, like Thursday, 17 September 2026. */
export function dayOf(at: string | number): string {
  return format({ weekday: "long", day: "numeric", month: "long", year: "numeric" }).format(new Date(at));
}

/** Returns the zone in which times are told; the reader's own until the team's is known. */
export function toldZone(): string {
  return zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone;
}

/** Reports whether two times are on the same day. */
export function sameDay(a: string | number, b: string | number, timeZone = zone): boolean {
  const day = format({ day: "numeric", month: "numeric", year: "numeric" }, timeZone);
  return day.format(new Date(a)) === day.format(new Date(b));
}

/** Names a time to come the way people do: the hour today, the weekday within a week, else the date. */
export function whenNext(at: string, now: number, timeZone = zone): string {
  const clock = timeOfDay(at, timeZone);
  if (sameDay(at, now, timeZone)) return t({ id: "time.at", message: `at ${clock}` });
  const day = dayNext(at, now, timeZone);
  return t({ id: "time.dayAt", message: `${day} at ${clock}` });
}

/** Names the day of a time to come: the weekday within a week, else the date. */
export function dayNext(at: string, now: number, timeZone = zone): string {
  const near = Date.parse(at) - now < 6.5 * 24 * 3600 * 1000;
  const day = { weekday: "long" } as const;
  return format(near ? day : { ...day, day: "numeric", month: "long" }, timeZone).format(new Date(at));
}

/** Names a wait in words that promise no more than anybody can keep. */
export function aboutMinutes(seconds: number): string {
  if (seconds <= 60) return t({ id: "time.minute", message: `about a minute` });
  if (seconds > 60 * 60) return t({ id: "time.hour", message: `more than an hour` });
  const minutes = Math.ceil(seconds / 60);
  return t({ id: "time.minutes", message: `about ${minutes} minutes` });
}

/** Puts parts into one phrase: all of them, or any. */
export function listed(
  parts: readonly string[],
  type: Intl.ListFormatOptions["type"] = "conjunction",
): string {
  return new Intl.ListFormat(locale(), { type }).format(parts);
}

/** Counts characters as people and the server do, not as UTF-16 units. */
export function characters(text: string): number {
  let n = 0;
  for (const character of text) n += character.length > 0 ? 1 : 0;
  return n;
}

/** Returns one name: the first word, or what stands for somebody unnamed. */
export function firstName(name: string, fallback = t`Visitor`): string {
  return name.trim().split(/\s+/)[0] || fallback;
}

/** Returns up to two initials; brackets are no letters. */
export function initials(name: string): string {
  const words = name.match(/[\p{L}\p{N}]\S*/gu) ?? [];
  const letters = [words[0], words.length > 1 ? words.at(-1) : undefined].map((w) => (w ? [...w][0] : ""));
  return letters.join("").toUpperCase() || "?";
}
