import { lazy, useState } from "react";

import type { ChatView, EventView } from "../../shared/types";
import { Lazily } from "../kit/lazily";
import { say, sayTrouble } from "../kit/say";
import { linkTo, mayChange } from "./message";
import { useDeskStore, useMe, useNow } from "./provider";
import { Menu, MenuItem } from "../kit/menu";

const KeepAsCanned = lazy(() => import("../library/keep-as-canned"));

interface Props {
  chat: ChatView;
  event: EventView;
  at: HTMLElement;
  onCorrect: (event: EventView) => void;
  onClose: () => void;
}

/** What can be done with one message. */
export default function MessageMenu({ chat, event, at, onCorrect, onClose }: Props) {
  const store = useDeskStore();
  const me = useMe();
  const now = useNow();
  const [keeping, setKeeping] = useState(false);
  const changeable = mayChange(event, me.id, chat, now);
  const left = Math.max(0, Math.ceil((Date.parse(event.changeableUntil ?? event.at) - now) / 1000));
  const copy = (text: string, done: string) => {
    onClose();
    navigator.clipboard.writeText(text).then(() => say(done, "success"), sayTrouble);
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
            store.acts.withdraw(chat.id, event.number).catch(sayTrouble);
          }}
        >
          Withdraw, {left} s left
        </MenuItem>
      ) : null}
    </Menu>
  );
}
