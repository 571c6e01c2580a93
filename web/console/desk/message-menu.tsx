import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useSnackbar } from "notistack";
import { lazy, useState } from "react";

import { wordsFor } from "../../shared/problem";
import type { ChatView, EventView } from "../../shared/types";
import { Lazily } from "../kit/lazily";
import { useDeskStore, useMe, useNow } from "./provider";

const KeepAsCanned = lazy(() => import("../library/keep-as-canned"));

/** Reports whether somebody may still correct or withdraw a message; the server says for how long. */
export function mayChange(event: EventView, meId: string, chat: ChatView, now: number): boolean {
  return (
    chat.phase === "active" &&
    (event.kind === "said" || event.kind === "shared") &&
    event.side === "team" &&
    event.by === meId &&
    event.changeableUntil !== undefined &&
    now < Date.parse(event.changeableUntil)
  );
}

/** Returns the address of a message, for colleagues. */
export function linkTo(chatId: string, number: number): string {
  return `${location.origin}/transcripts/${chatId}?at=${number}`;
}

interface Props {
  chat: ChatView;
  event: EventView;
  at: HTMLElement;
  onCorrect: (event: EventView) => void;
  onClose: () => void;
}

/** What can be done with one message. */
export function MessageMenu({ chat, event, at, onCorrect, onClose }: Props) {
  const store = useDeskStore();
  const me = useMe();
  const now = useNow();
  const { enqueueSnackbar } = useSnackbar();
  const [keeping, setKeeping] = useState(false);
  const changeable = mayChange(event, me.id, chat, now);
  const left = Math.max(0, Math.ceil((Date.parse(event.changeableUntil ?? event.at) - now) / 1000));
  const fail = (error: unknown) => enqueueSnackbar(wordsFor(error), { variant: "error" });
  const copy = (text: string, done: string) => {
    onClose();
    navigator.clipboard.writeText(text).then(() => enqueueSnackbar(done, { variant: "success" }), fail);
  };
  if (keeping) {
    return (
      <Lazily>
        <KeepAsCanned text={event.text ?? ""} departmentId={chat.departmentId} onClose={onClose} />
      </Lazily>
    );
  }
  return (
    <Menu anchorEl={at} open onClose={onClose}>
      {event.text ? (
        <MenuItem onClick={() => copy(event.text ?? "", "Copied")}>Copy the text</MenuItem>
      ) : null}
      <MenuItem onClick={() => copy(linkTo(chat.id, event.number), "Link copied")}>
        Copy a link to this message
      </MenuItem>
      {event.kind === "said" && event.side === "team" ? (
        <MenuItem onClick={() => setKeeping(true)}>Save as canned response</MenuItem>
      ) : null}
      {changeable && event.kind === "said" ? (
        <MenuItem
          onClick={() => {
            onClose();
            onCorrect(event);
            requestAnimationFrame(() => document.getElementById(`write-${chat.id}`)?.focus());
          }}
        >
          Correct, {left} s left
        </MenuItem>
      ) : null}
      {changeable ? (
        <MenuItem
          onClick={() => {
            onClose();
            store.acts.withdraw(chat.id, event.number).catch(fail);
          }}
        >
          Withdraw, {left} s left
        </MenuItem>
      ) : null}
    </Menu>
  );
}
