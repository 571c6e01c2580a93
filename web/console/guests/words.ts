import { plural, t } from "@lingui/core/macro";

import { clock } from "../../shared/format";
import { locale } from "../../shared/speak";
import type { GuestView, Source } from "../../shared/types";

/** How the team calls somebody on a site. */
export function guestName(guest: { name?: string; number: number }): string {
  return guest.name || t`Visitor ${guest.number}`;
}

const names = new Map<string, Intl.DisplayNames>();

/** The name of a country by its two letters; nothing for none. */
export function countryName(code: string | undefined): string {
  if (!code) return "";
  let of = names.get(locale());
  if (!of) {
    of = new Intl.DisplayNames([locale()], { type: "region" });
    names.set(locale(), of);
  }
  try {
    return of.of(code) ?? code;
  } catch {
    return code; // no code of a country
  }
}

/** Where somebody is, in a word. */
export function placeWords(place: GuestView["place"]): string {
  return place.name || countryName(place.country) || "";
}

/** By what way somebody came. */
export function sourceKind(kind: string): string {
  const words: Record<string, string> = {
    direct: t`direct`,
    search: t`web search`,
    social: t`social network`,
    email: t`email`,
    campaign: t`campaign`,
    referral: t`another site`,
    "by-text": t`text message`,
    "by-email": t`email to us`,
  };
  return words[kind] ?? kind;
}

/** From where somebody came, in a word. */
export function sourceWords(source: Source): string {
  if (source.kind === "referral" || source.kind === "social" || source.kind === "campaign")
    return source.campaign || source.name || sourceKind(source.kind);
  return source.campaign || sourceKind(source.kind);
}

/** What the states of visitors are called. */
export function siteStateWords(state: string): string {
  const words: Record<string, string> = {
    browsing: t`browsing`,
    idle: t`idle`,
    invited: t`invited`,
    waiting: t`waiting`,
    chat: t`in a chat`,
    message: t`left a message`,
    gone: t`left`,
  };
  return words[state] ?? state;
}

/** What somebody does now, with whom and for how long. */
export function doingWords(guest: GuestView, me: string, now: number): string {
  const since = clock(now - Date.parse(guest.stateSince));
  switch (guest.state) {
    case "chat":
      return guest.ownerId === me ? t`with you` : t`with ${guest.ownerName ?? ""}`;
    case "waiting":
      return t`waiting ${since}`;
    case "idle":
      return t`idle ${since}`;
    case "invited":
      return t`invited ${since}`;
    default:
      return siteStateWords(guest.state);
  }
}

/** Why a score has some of its points. */
export function reasonWords(reason: GuestView["reasons"][number]): string {
  const values = reason.values ?? {};
  const count = Number(values.pages ?? values.minutes ?? values.visits ?? 0);
  switch (reason.code) {
    case "topic": {
      const topic = values.topic ?? "";
      return plural(count, { one: `${topic}: # page`, other: `${topic}: # pages` });
    }
    case "time":
      return plural(count, { one: "# minute of reading", other: "# minutes of reading" });
    case "basket":
      return t`something in the basket`;
    case "return":
      return plural(count, { one: "came back after # visit", other: "came back after # visits" });
    default:
      return reason.code;
  }
}

/** What device it is. */
export function deviceWords(kind: string): string {
  const words: Record<string, string> = { desktop: t`computer`, phone: t`phone`, tablet: t`tablet` };
  return words[kind] ?? "";
}
