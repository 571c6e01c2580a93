import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { clock } from "../../shared/format";
import type { ChatView } from "../../shared/types";
import { Icons } from "../icons";
import { useNow, usePlaces } from "./provider";

export interface Reading {
  urgency: "calm" | "soon" | "late";
  /** Part of the answer target that is used, 0 to 1. */
  share: number;
  running: number;
  leftWords: string;
}

/**
 * Reads a chat's reply clock at a time; the server says whose turn it is, since
 * when and by when. Nobody is late for a visitor who has left the site, nor for
 * a message: those have no target.
 */
export function readClock(chat: ChatView, now: number, gone = false): Reading {
  const running = Math.max(0, now - Date.parse(chat.turnSince));
  if (chat.turn !== "team" || chat.targetSeconds === 0 || gone)
    return { urgency: "calm", share: 0, running, leftWords: "" };
  const target = chat.targetSeconds * 1000;
  const urgency = running > target ? "late" : running >= chat.soonSeconds * 1000 ? "soon" : "calm";
  const leftWords =
    running > target ? t`${clock(running - target)} over` : t`${clock(target - running + 999)} left`;
  return { urgency, share: Math.min(1, running / target), running, leftWords };
}

/** Reports whether a chat's visitor has left the site. */
export function useGone(chat: ChatView): boolean {
  return usePlaces((s) => !chat.way && s.places.get(chat.visitorId)?.here === false);
}

/** Says whose turn it is and for how long, in words and with a mark; never by colour alone. */
export function ReplyClock({ chat, short = false }: { chat: ChatView; short?: boolean }) {
  const now = useNow();
  const gone = useGone(chat);
  const reading = readClock(chat, now, gone);
  if (chat.phase === "ended")
    return (
      <span className="reply-clock">
        <Trans>ended</Trans>
      </span>
    );
  if (chat.turn !== "team") {
    if (short) return <span className="reply-clock">{gone ? t`left the site` : t`visitor's turn`}</span>;
    return (
      <span className="reply-clock">
        {gone ? t`Left the site` : t`Waiting for visitor`} · {clock(reading.running)}
      </span>
    );
  }
  if (gone || chat.targetSeconds === 0) {
    const why = gone ? t`left the site` : t`message, ${clock(reading.running)} old`;
    return <span className="reply-clock">{short ? why : t`Your turn · ${why}`}</span>;
  }
  return (
    <span className={`reply-clock clock ${reading.urgency}`}>
      {reading.urgency === "late" ? (
        <Icons.Warning />
      ) : reading.urgency === "soon" ? (
        <Icons.Hourglass />
      ) : null}
      {short ? t`your turn` : t`Your turn`} <b>{clock(reading.running)}</b>
      {short ? null : (
        <span className="target">
          {" "}
          <Trans>of {clock(chat.targetSeconds * 1000)}</Trans>
        </span>
      )}
    </span>
  );
}

/** The thin bar that fills towards the answer target. */
export function ReplyBar({ chat }: { chat: ChatView }) {
  const now = useNow();
  const reading = readClock(chat, now, useGone(chat));
  return (
    <div className={`bar flat ${reading.urgency}`} aria-hidden="true">
      <i style={{ width: `${reading.share * 100}%` }} />
    </div>
  );
}

/** How long ago something was, ticking. */
export function Since({ at }: { at: string }) {
  const now = useNow();
  return <span className="clock">{clock(now - Date.parse(at))}</span>;
}

/** How long there is until something, ticking. */
export function Until({ at }: { at: string }) {
  const now = useNow();
  return <span className="clock">{clock(Date.parse(at) - now + 999)}</span>;
}
