import "./later.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useRef, useState } from "react";

import { clock, timeOfDay } from "../../shared/format";
import type { ChatView } from "../../shared/types";
import { useKept } from "../forms/kept";
import { Icons } from "../icons";
import { useAct } from "../keyboard/keyboard";
import { Button } from "../kit/button";
import { say } from "../kit/say";
import { Make } from "../tickets/make";
import { draftKey, noteKey } from "./drafts";
import { Outcome, Summary } from "./outcome";
import { useDeskStore, useMe, useNow } from "./provider";
import { Tags } from "./tags";

/** After the end: how it came out, in a moment, and then away with the lane. */
export function EndedFoot({ chat, focused }: { chat: ChatView; focused: boolean }) {
  const store = useDeskStore();
  const me = useMe();
  const now = useNow();
  const wrapping = chat.wrapUntil && Date.parse(chat.wrapUntil) > now;
  const mine = chat.ownerId === me.id;
  const foot = useRef<HTMLElement>(null);
  const [making, setMaking] = useState(false);
  useAct("ticket", () => setMaking(true), focused);
  useEffect(() => {
    // The field is gone that had the keyboard. The script gets it: whatever is
    // typed on goes nowhere, rather than to somebody else.
    if (document.activeElement !== document.body && document.activeElement !== null) return;
    if (focused) foot.current?.closest(".lane")?.querySelector<HTMLElement>(".script")?.focus();
    // Only at the end itself.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  return (
    <footer className="lane-foot ended" ref={foot}>
      <p>
        <Icons.Door /> {chat.endedAt ? t`Chat ended at ${timeOfDay(chat.endedAt)}.` : t`Chat ended.`}{" "}
        {wrapping && chat.wrapUntil ? (
          <>
            <Trans>
              Wrap-up: counts as a chat for{" "}
              <span className="clock">{clock(Date.parse(chat.wrapUntil) - now + 999)}</span>
            </Trans>
          </>
        ) : (
          t`The transcript is kept.`
        )}
      </p>
      <NeverSent label={t`Not sent`} keptAs={draftKey(chat.id)} />
      <NeverSent label={t`Note not saved`} keptAs={noteKey(chat.id)} />
      {mine && chat.ending === "answered" ? (
        <div className="wrap-up" role="group" aria-label={t`Wrap-up`}>
          <Outcome chat={chat} />
          <Tags chat={chat} />
          <Summary chat={chat} />
        </div>
      ) : null}
      <div className="row">
        <span className={chat.needsOutcome ? "owed" : ""}>
          {chat.needsOutcome ? t`${chat.departmentName} needs an outcome before you close the lane.` : ""}
        </span>
        <Button onClick={() => setMaking(true)}>
          <Trans>Make a ticket</Trans>
        </Button>
        <Button
          variant={focused && wrapping && !chat.needsOutcome ? "contained" : "outlined"}
          disabled={chat.needsOutcome}
          onClick={() => store.acts.close(chat.id)}
        >
          {wrapping ? t`Done` : t`Close lane`}
        </Button>
      </div>
      {making ? <Make chatId={chat.id} onClose={() => setMaking(false)} /> : null}
    </footer>
  );
}

/** What was being typed when the chat ended under one's hand. */
function NeverSent({ label, keptAs }: { label: string; keptAs: string }) {
  const [typed, setTyped] = useKept(keptAs);
  if (!typed) return null;
  const copy = () => {
    navigator.clipboard.writeText(typed).then(
      () => say(t`Copied`, "success"),
      () => say(t`The browser does not allow copying. Select the words instead.`, "error"),
    );
  };
  return (
    <p className="never-sent">
      {label}: <i dir="auto">{typed}</i>{" "}
      <button className="link" onClick={copy}>
        <Trans>Copy</Trans>
      </button>{" "}
      <button className="link" onClick={() => setTyped(null)}>
        <Trans>Discard</Trans>
      </button>
    </p>
  );
}
