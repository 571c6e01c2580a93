import { t } from "@lingui/core/macro";

import { api, ask } from "../../shared/api";
import type { ChatView } from "../../shared/types";
import { hintOf } from "../keyboard/acts";
import { Menu, MenuItem } from "../kit/menu";
import { say, sayTrouble } from "../kit/say";
import { linkTo } from "./message";
import { askToGoOn, askWords } from "./way";
import { useDeskStore } from "./provider";

interface Props {
  chat: ChatView;
  at: HTMLElement;
  onClose: () => void;
  onPassing: (what: "colleague" | "put-back" | "ban" | "translate" | "ticket") => void;
  onUnread: () => void;
}

/** What the owner does more rarely with a chat as a whole. */
export default function OwnerMenu({ chat, at, onClose, onPassing, onUnread }: Props) {
  const choose = (doing: () => void) => () => {
    onClose();
    doing();
  };
  const store = useDeskStore();
  const lookAlong = () => ask(api.POST("/api/chats/{id}/along", { params: { path: { id: chat.id } } }));
  const toHelper = async () => {
    await ask(api.POST("/api/chats/{id}/helper", { params: { path: { id: chat.id } } }));
    store.screen.lanes.close(chat.id);
    store.screen.turnFrom(chat.id);
  };
  return (
    <Menu anchorEl={at} open onClose={onClose}>
      <Item words={t`Add colleague`} act="colleague" onClick={choose(() => onPassing("colleague"))} />
      {chat.message ? null : (
        <Item words={t`Put back`} act="put-back" onClick={choose(() => onPassing("put-back"))} />
      )}
      {chat.hasFlow &&
      !chat.message &&
      !chat.way &&
      chat.phase === "active" &&
      !chat.handingTo &&
      !chat.handingDepartmentId ? (
        <Item words={t`Give to the helper`} onClick={choose(() => void toHelper().catch(sayTrouble))} />
      ) : null}
      {chat.phase === "active" && !chat.message && !chat.way && !chat.along ? (
        <Item words={t`Look along`} onClick={choose(() => void lookAlong().catch(sayTrouble))} />
      ) : null}
      {chat.phase === "active" ? (
        <Item words={t`Translate`} onClick={choose(() => onPassing("translate"))} />
      ) : null}
      {chat.phase === "active"
        ? chat.ways
            .filter((kind) => kind !== chat.askedWay)
            .map((kind) => (
              <Item
                key={kind}
                words={askWords(kind)}
                onClick={choose(() => void askToGoOn(chat.id, kind).catch(sayTrouble))}
              />
            ))
        : null}
      <Item words={t`Make a ticket`} act="ticket" onClick={choose(() => onPassing("ticket"))} />
      <Item words={chat.unread ? t`Mark read` : t`Mark unread`} act="unread" onClick={choose(onUnread)} />
      <Item
        words={t`Copy a link to the chat`}
        onClick={choose(() => {
          navigator.clipboard
            .writeText(linkTo(chat.id, 1))
            .then(() => say(t`Link copied`, "success"), sayTrouble);
        })}
      />
      <Item words={t`Ban the visitor`} act="ban" onClick={choose(() => onPassing("ban"))} />
    </Menu>
  );
}

function Item({ words, act = "", onClick }: { words: string; act?: string; onClick: () => void }) {
  const hint = hintOf(act);
  return (
    <MenuItem onClick={onClick}>
      {words}
      {hint ? <span className="key push">{hint}</span> : null}
    </MenuItem>
  );
}
