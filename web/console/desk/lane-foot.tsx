import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { memo, useState } from "react";

import { keepInFront } from "../../shared/storage";
import type { ChatView } from "../../shared/types";
import { useKept } from "../forms/kept";
import { Icons } from "../icons";
import { useAct } from "../keyboard/keyboard";
import { Button } from "../kit/button";
import { InputBase } from "../kit/input";
import { later } from "../kit/later";
import { Lazily } from "../kit/lazily";
import { sayTrouble } from "../kit/say";
import type { Passing } from "./hand-on";
import { useDeskStore, useMe, useTeam } from "./provider";
import { Until } from "./reply-clock";

const PassDialog = later(() => import("./hand-on").then((m) => ({ default: m.PassDialog })));
const OwnerMenu = later(() => import("./owner-menu"));
const AskTeam = later(() => import("./ask-team"));
const BanDialog = later(() => import("./ban-dialog"));

/** Says who else speaks in the chat, so that nobody wonders who owns it. */
export function WithWhom({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const operators = useTeam((s) => s.operators);
  const departments = useTeam((s) => s.departments);
  const me = useMe();
  const guests = (chat.guests ?? [])
    .map((id) => operators.find((o) => o.id === id))
    .filter((o) => o !== undefined);
  const owner = chat.ownerId === me.id;
  const asked = departments.find((d) => d.id === chat.callDepartmentId);
  if (guests.length === 0 && !asked) return null;
  return (
    <div className="with-whom">
      {guests.length > 0 ? (
        <>
          <Icons.Person />
          <span>
            {owner ? t`You own this chat.` : t`${chat.ownerName ?? t`A colleague`} owns this chat.`}{" "}
            <Trans>Also here:</Trans>
          </span>
          {guests.map((o) => (
            <span key={o.id} className="guest">
              {o.id === me.id ? t`you` : o.name}
              {owner ? (
                <button
                  className="link"
                  onClick={() => store.acts.removeColleague(chat.id, o.id).catch(sayTrouble)}
                >
                  <Trans>remove</Trans>
                </button>
              ) : null}
            </span>
          ))}
        </>
      ) : null}
      {asked ? (
        <span>
          <Icons.Ring /> <Trans>Asking {asked.name} for help.</Trans>
          {owner ? (
            <button className="link" onClick={() => store.acts.endCall(chat.id).catch(sayTrouble)}>
              <Trans>stop asking</Trans>
            </button>
          ) : null}
        </span>
      ) : null}
    </div>
  );
}

/** What a colleague can do who was added. */
export function GuestFoot({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const me = useMe();
  return (
    <footer className="lane-foot">
      {me.role === "operator" ? null : (
        <Button onClick={() => store.acts.takeOver(chat.id).catch(sayTrouble)} startIcon={<Icons.Passing />}>
          <Trans>Take over</Trans>
        </Button>
      )}
      <Button
        onClick={() => store.acts.removeColleague(chat.id, me.id).catch(sayTrouble)}
        startIcon={<Icons.Door />}
      >
        <Trans>Leave the chat</Trans>
      </Button>
    </footer>
  );
}

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
    const [passing, setPassing] = useState<Passing | "ask-team" | "ban" | null>(null);
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
          {passing && passing !== "ask-team" && passing !== "ban" ? (
            <PassDialog chat={chat} passing={passing} onClose={() => setPassing(null)} />
          ) : null}
        </Lazily>
      </footer>
    );
  },
  (a, b) => a.name === b.name && a.focused === b.focused && footOf(a.chat) === footOf(b.chat),
);

/** What the foot shows of a chat: other changes do not draw it anew. */
function footOf(c: ChatView): string {
  return [c.id, c.handingUntil, c.handingToName, c.callDepartmentId, c.message, c.unread].join();
}

/** What a lead can do who reads along: whisper, step in, take over. */
export function WatcherFoot({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const keptAs = `stoop.desk.whisper.${chat.id}`;
  const [typed, setTyped] = useKept(keptAs);
  const text = typed ?? "";
  const write = (words: string) => setTyped(words || null);
  const whisper = () => {
    const words = text.trim();
    if (!words) return;
    write("");
    store.acts.whisper(chat.id, words).catch((error: unknown) => {
      keepInFront(keptAs, words); // before what is being typed by now
      sayTrouble(error);
    });
  };
  return (
    <>
      <form
        className="composer noting"
        onSubmit={(e) => {
          e.preventDefault();
          whisper();
        }}
      >
        <p className="mode">
          <Icons.Eye />{" "}
          <Trans>You are watching unseen. {chat.ownerName ?? t`A colleague`} owns this chat.</Trans>
        </p>
        <InputBase
          id={`write-${chat.id}`}
          className="write"
          fullWidth
          multiline
          maxRows={4}
          value={text}
          placeholder={t`Whisper to ${chat.ownerName ?? t`the owner`}; the visitor never sees it`}
          inputProps={{
            "aria-label": t`Whisper to ${chat.ownerName ?? t`the owner`}`,
            dir: "auto",
            maxLength: 1000,
          }}
          onChange={(e) => write(e.target.value)}
          onKeyDown={(e) => {
            if (e.key !== "Enter" || e.shiftKey || e.nativeEvent.isComposing) return;
            e.preventDefault();
            whisper();
          }}
        />
        <div className="row">
          <span />
          <Button type="submit" variant="outlined" disabled={!text.trim()}>
            <Trans>
              Whisper <span className="key">Enter</span>
            </Trans>
          </Button>
        </div>
      </form>
      <footer className="lane-foot">
        <Button onClick={() => store.acts.join(chat.id).catch(sayTrouble)} startIcon={<Icons.Person />}>
          <Trans>Step in</Trans>
        </Button>
        <Button onClick={() => store.acts.takeOver(chat.id).catch(sayTrouble)} startIcon={<Icons.Passing />}>
          <Trans>Take over</Trans>
        </Button>
        <Button
          onClick={() => store.acts.stopWatching(chat.id).catch(sayTrouble)}
          startIcon={<Icons.Close />}
        >
          <Trans>Stop watching</Trans>
        </Button>
      </footer>
    </>
  );
}
