import Button from "@mui/material/Button";
import { useSnackbar } from "notistack";
import { useEffect, useRef, useState } from "react";

import { clock, timeOfDay } from "../../shared/format";
import { keep, kept } from "../../shared/storage";
import type { ChatView } from "../../shared/types";
import { Icons } from "../icons";
import { draftKey } from "./drafts";
import { Outcome, Summary } from "./outcome";
import { useDesk, useDeskStore, useNow } from "./provider";
import { Tags } from "./tags";

/** After the end: how it came out, in a moment, and then away with the lane. */
export function EndedFoot({ chat, focused }: { chat: ChatView; focused: boolean }) {
  const store = useDeskStore();
  const { me } = useDesk();
  const now = useNow();
  const wrapping = chat.wrapUntil && Date.parse(chat.wrapUntil) > now;
  const mine = chat.ownerId === me.id;
  const { enqueueSnackbar } = useSnackbar();
  const [typed, setTyped] = useState(() => kept(draftKey(chat.id)) ?? "");
  const foot = useRef<HTMLElement>(null);
  useEffect(() => {
    // The field is gone that had the keyboard. The script gets it: whatever is
    // typed on goes nowhere, rather than to somebody else.
    if (document.activeElement !== document.body && document.activeElement !== null) return;
    if (focused) foot.current?.closest(".lane")?.querySelector<HTMLElement>(".script")?.focus();
    // Only at the end itself.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  const forget = () => {
    keep(draftKey(chat.id), null);
    setTyped("");
  };
  return (
    <footer className="lane-foot ended" ref={foot}>
      <p>
        <Icons.Door /> Chat ended{chat.endedAt ? ` at ${timeOfDay(chat.endedAt)}` : ""}.{" "}
        {wrapping && chat.wrapUntil ? (
          <>
            Wrap-up: counts as a chat for{" "}
            <span className="clock">{clock(Date.parse(chat.wrapUntil) - now + 999)}</span>
          </>
        ) : (
          "The transcript is kept."
        )}
      </p>
      {typed ? (
        <p className="never-sent">
          Not sent: <i dir="auto">{typed}</i>{" "}
          <button
            className="link"
            onClick={() => {
              void navigator.clipboard
                .writeText(typed)
                .then(() => enqueueSnackbar("Copied", { variant: "success" }));
            }}
          >
            Copy
          </button>{" "}
          <button className="link" onClick={forget}>
            Discard
          </button>
        </p>
      ) : null}
      {mine && chat.ending === "answered" ? (
        <div className="wrap-up" role="group" aria-label="Wrap-up">
          <Outcome chat={chat} />
          <Tags chat={chat} />
          <Summary chat={chat} />
        </div>
      ) : null}
      <div className="row">
        <span className={chat.needsOutcome ? "owed" : ""}>
          {chat.needsOutcome ? `${chat.departmentName} needs an outcome before you close the lane.` : ""}
        </span>
        <Button
          variant={focused && wrapping && !chat.needsOutcome ? "contained" : "outlined"}
          disabled={chat.needsOutcome}
          onClick={() => store.close(chat.id)}
        >
          {wrapping ? "Done" : "Close lane"}
        </Button>
      </div>
    </footer>
  );
}
