import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import type { ChatView, EventView } from "../../shared/types";
import { later } from "../kit/later";
import { Lazily } from "../kit/lazily";
import { say, sayTrouble } from "../kit/say";
import { linkTo, mayChange } from "./message";
import { useDeskStore, useMe, useNow } from "./provider";
import { Menu, MenuItem } from "../kit/menu";

const MakeTicket = later(() => import("../tickets/make").then((m) => ({ default: m.Make })));
const KeepAsCanned = later(() => import("../library/keep-as-canned"));

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
  const [making, setMaking] = useState(false);
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
  if (making) {
    return (
      <Lazily>
        <MakeTicket chatId={chat.id} message={event.number} onClose={onClose} />
      </Lazily>
    );
  }
  return (
    <Menu anchorEl={at} open onClose={onClose}>
      {event.text ? (
        <MenuItem onClick={() => copy(event.text ?? "", t`Copied`)}>
          <Trans>Copy the text</Trans>
        </MenuItem>
      ) : null}
      <MenuItem onClick={() => copy(linkTo(chat.id, event.number), t`Link copied`)}>
        <Trans>Copy a link to this message</Trans>
      </MenuItem>
      {event.kind === "said" ? (
        <MenuItem onClick={() => setMaking(true)}>
          <Trans>Make a ticket of it</Trans>
        </MenuItem>
      ) : null}
      {event.kind === "said" && !event.card && event.side === "team" ? (
        <MenuItem onClick={() => setKeeping(true)}>
          <Trans>Save as canned response</Trans>
        </MenuItem>
      ) : null}
      {changeable && event.kind === "said" && !event.card ? (
        <MenuItem
          onClick={() => {
            onClose();
            onCorrect(event);
            requestAnimationFrame(() => document.getElementById(`write-${chat.id}`)?.focus());
          }}
        >
          <Trans>Correct, {left} s left</Trans>
        </MenuItem>
      ) : null}
      {changeable ? (
        <MenuItem
          onClick={() => {
            onClose();
            store.acts.withdraw(chat.id, event.number).catch(sayTrouble);
          }}
        >
          <Trans>Withdraw, {left} s left</Trans>
        </MenuItem>
      ) : null}
    </Menu>
  );
}
