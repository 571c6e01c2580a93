import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { memo, useState } from "react";

import type { ChatView } from "../../shared/types";
import { Icons } from "../icons";
import { useAct } from "../keyboard/keyboard";
import { Button } from "../kit/button";
import { later } from "../kit/later";
import { Lazily } from "../kit/lazily";
import { sayTrouble } from "../kit/say";
import type { Passing } from "./hand-on";
import { useDeskStore } from "./provider";
import { Until } from "./reply-clock";

const PassDialog = later(() => import("./hand-on").then((m) => ({ default: m.PassDialog })));
const OwnerMenu = later(() => import("./owner-menu"));
const AskTeam = later(() => import("./ask-team"));
const TranslationDialog = later(() => import("./translation-dialog"));
const MakeTicket = later(() => import("../tickets/make").then((m) => ({ default: m.Make })));
const BanDialog = later(() => import("./ban-dialog"));

// What the foot opens beside the dialog of passing on.
const others: ReadonlySet<string> = new Set(["ask-team", "ban", "translate", "ticket"]);

interface OwnerProps {
  chat: ChatView;
  name: string;
  focused: boolean;
}

/** What the owner does with a chat as a whole. */
export const OwnerFoot = memo(
  function OwnerFoot({ chat, name, focused }: OwnerProps) {
    const store = useDeskStore();
    const [asking, setAsking] = useState(false);
    const [passing, setPassing] = useState<Passing | "ask-team" | "ban" | "translate" | "ticket" | null>(
      null,
    );
    const [menu, setMenu] = useState<HTMLElement | null>(null);
    const end = () => {
      setAsking(false);
      store.acts.end(chat.id).catch(sayTrouble);
    };
    const unread = () => void store.acts.markUnread(chat.id, !chat.unread).catch(sayTrouble);
    const free = focused && !chat.handingUntil;
    useAct("hand-on", () => setPassing("hand-on"), free);
    useAct("colleague", () => setPassing("colleague"), free);
    useAct("ask-team", () => setPassing("ask-team"), free && !chat.callDepartmentId);
    useAct("put-back", () => setPassing("put-back"), free && !chat.message);
    useAct("ticket", () => setPassing("ticket"), focused);
    useAct("end", () => setAsking(true), free);
    useAct("ban", () => setPassing("ban"), focused);
    useAct("unread", unread, focused);
    if (chat.handingUntil) {
      return (
        <footer className="lane-foot handing">
          <span className="cut">
            <Icons.Passing />{" "}
            <Trans>
              Offered to <b>{chat.handingToName}</b>; back to you in
            </Trans>{" "}
            <Until at={chat.handingUntil} />
          </span>
          <Button variant="outlined" onClick={() => void store.acts.takeBack(chat.id).catch(sayTrouble)}>
            <Trans>Take back</Trans>
          </Button>
        </footer>
      );
    }
    return (
      <footer className="lane-foot">
        {asking ? (
          <div role="group" aria-label={t`End the chat with ${name}?`} className="asking">
            <span className="cut">
              <Trans>
                End the chat with <bdi>{name}</bdi>?
              </Trans>
            </span>
            <Button variant="outlined" autoFocus onClick={end}>
              <Trans>End it</Trans>
            </Button>
            <Button onClick={() => setAsking(false)}>
              <Trans>Keep chat open</Trans>
            </Button>
          </div>
        ) : (
          <>
            <Button onClick={() => setPassing("hand-on")} startIcon={<Icons.Passing />}>
              <Trans>Hand on</Trans>
            </Button>
            <Button
              onClick={() => setPassing("ask-team")}
              disabled={chat.callDepartmentId !== undefined}
              startIcon={<Icons.Ring />}
            >
              <Trans>Ask team</Trans>
            </Button>
            <Button aria-haspopup="menu" onClick={(e) => setMenu(e.currentTarget)} startIcon={<Icons.More />}>
              <Trans>More</Trans>
            </Button>
            <Button onClick={() => setAsking(true)} startIcon={<Icons.Door />}>
              <Trans>End</Trans>
            </Button>
          </>
        )}
        <Lazily>
          {menu ? (
            <OwnerMenu
              chat={chat}
              at={menu}
              onClose={() => setMenu(null)}
              onPassing={setPassing}
              onUnread={unread}
            />
          ) : null}
          {passing === "ask-team" ? <AskTeam chat={chat} onClose={() => setPassing(null)} /> : null}
          {passing === "ban" ? <BanDialog chat={chat} onClose={() => setPassing(null)} /> : null}
          {passing === "translate" ? (
            <TranslationDialog chat={chat} onClose={() => setPassing(null)} />
          ) : null}
          {passing === "ticket" ? <MakeTicket chatId={chat.id} onClose={() => setPassing(null)} /> : null}
          {passing && !others.has(passing) ? (
            <PassDialog chat={chat} passing={passing as Passing} onClose={() => setPassing(null)} />
          ) : null}
        </Lazily>
      </footer>
    );
  },
  (a, b) => a.name === b.name && a.focused === b.focused && footOf(a.chat) === footOf(b.chat),
);

/** What the foot shows of a chat: other changes do not draw it anew. */
function footOf(c: ChatView): string {
  const { phase, hasFlow, along, translating } = c; // which the menu reads
  return [
    ...[c.id, c.handingUntil, c.handingToName, c.callDepartmentId, c.message, c.unread],
    ...[phase, hasFlow, along?.number, translating?.theirs, translating?.ours],
  ].join();
}
