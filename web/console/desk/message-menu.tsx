import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import { useSnackbar } from "notistack";
import { lazy, Suspense, useState } from "react";

import { wordsFor } from "../../shared/problem";
import type { ChatView, EventView } from "../../shared/types";
import { useDesk, useDeskStore, useNow } from "./provider";

const KeepAsCanned = lazy(() => import("../library/keep-as-canned"));

// As long as core/chat says.
const changeWithin = 60_000;

/** Reports whether somebody may still correct or withdraw a message. */
export function mayChange(event: EventView, meId: string, chat: ChatView, now: number): boolean {
  return (
    chat.phase === "active" &&
    (event.kind === "said" || event.kind === "shared") &&
    event.side === "team" &&
    event.by === meId &&
    now - Date.parse(event.at) < changeWithin
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
  const { me } = useDesk();
  const now = useNow();
  const { enqueueSnackbar } = useSnackbar();
  const [keeping, setKeeping] = useState(false);
  const changeable = mayChange(event, me.id, chat, now);
  const left = Math.max(0, Math.ceil((Date.parse(event.at) + changeWithin - now) / 1000));
  const fail = (error: unknown) => enqueueSnackbar(wordsFor(error), { variant: "error" });
  const copy = (text: string, done: string) => {
    onClose();
    navigator.clipboard.writeText(text).then(() => enqueueSnackbar(done, { variant: "success" }), fail);
  };
  if (keeping) {
    return (
      <Suspense fallback={null}>
        <KeepAsCanned text={event.text ?? ""} departmentId={chat.departmentId} onClose={onClose} />
      </Suspense>
    );
  }
  return (
    <Menu anchorEl={at} open onClose={onClose}>
      {event.text ? (
        <MenuItem onClick={() => copy(event.text ?? "", "Copied")}>Copy the words</MenuItem>
      ) : null}
      <MenuItem onClick={() => copy(linkTo(chat.id, event.number), "The link is copied")}>
        Copy a link to it
      </MenuItem>
      {event.kind === "said" && event.side === "team" ? (
        <MenuItem onClick={() => setKeeping(true)}>Keep as canned response</MenuItem>
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
            store.withdraw(chat.id, event.number).catch(fail);
          }}
        >
          Withdraw, {left} s left
        </MenuItem>
      ) : null}
    </Menu>
  );
}
