import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { memo, useCallback, useState } from "react";

import { firstName } from "../../shared/format";
import { emptyLog } from "../../shared/log";
import type { Unsent } from "../../shared/outbox";
import { filesOf } from "../../shared/upload";
import type { ChatView, EventView } from "../../shared/types";
import { basketMoney } from "../guests/basket-money";
import { Icons } from "../icons";
import { useAct } from "../keyboard/keyboard";
import { later } from "../kit/later";
import { Lazily } from "../kit/lazily";
import { Tool } from "../kit/tool";
import { Composer } from "./composer";
import { laneElement } from "./lane-element";
import { OwnerFoot } from "./lane-foot";
import { mayChange } from "./message";
import { markOf } from "./marks";
import {
  useAt,
  useChats,
  useDeskStore,
  useMe,
  usePlaces,
  useScripts,
  useTeam,
  useUploads,
  useWindows,
} from "./provider";
import { ReplyBar, ReplyClock, Since } from "./reply-clock";
import { Script } from "./script";
import { isMine } from "./store/lists";
import type { Upload } from "./store/uploads";
import { nameOf } from "./name-of";

const EndedFoot = later(() => import("./ended-foot").then((m) => ({ default: m.EndedFoot })));
const MessageMenu = later(() => import("./message-menu"));
const WithWhom = later(() => import("./company").then((m) => ({ default: m.WithWhom })));
const GuestFoot = later(() => import("./company").then((m) => ({ default: m.GuestFoot })));
const LaneBars = later(() => import("./lane-bars"));
const WayLine = later(() => import("./way").then((m) => ({ default: m.WayLine })));
const WatcherFoot = later(() => import("./watcher-foot"));

const nothingUnsent: Unsent[] = [];
const noUploads: Upload[] = [];

interface Props {
  chat: ChatView;
  number: number;
  focused: boolean;
  /** The lane stands in a window of its own. */
  single?: boolean;
}

/** One conversation, whole: who it is, where they are, what was said, and where to write. */
export function Lane({ chat, number, focused, single = false }: Props) {
  const store = useDeskStore();
  const me = useMe();
  const log = useScripts((s) => s.logs.get(chat.id)) ?? emptyLog;
  const unsent = useScripts((s) => s.unsent.get(chat.id)) ?? nothingUnsent;
  const uploads = useUploads((s) => s.uploads.get(chat.id)) ?? noUploads;
  const refills = useScripts((s) => s.refills.get(chat.id)) ?? 0;
  const connected = useTeam((s) => s.connection !== "lost");
  const watched = useChats((s) => s.watched.has(chat.id));
  const here = usePlaces((s) => s.places.get(chat.visitorId)?.here ?? false);
  const [menu, setMenu] = useState<{ event: EventView; at: HTMLElement } | undefined>();
  const [correcting, setCorrecting] = useState<EventView | undefined>();
  const [dragged, setDragged] = useState(false);
  const name = nameOf(chat);
  const owner = chat.ownerId === me.id;
  const mine = isMine(chat, me);
  const id = chat.id;
  const onAnew = useCallback((clientId: string) => store.words.writeAnew(id, clientId), [store, id]);
  const onAgain = useCallback((clientId: string) => store.uploads.again(clientId), [store]);
  const onCancel = useCallback((clientId: string) => store.uploads.cancel(id, clientId), [store, id]);
  const onMore = useCallback((event: EventView, at: HTMLElement) => setMenu({ event, at }), [setMenu]);
  const last = log.events.findLast(
    (e) => e.kind === "said" && !e.card && e.side === "team" && e.by === me.id,
  );
  const stillMine = useAt((now) => last !== undefined && mayChange(last, me.id, chat, now));
  const correctable = stillMine ? last : undefined;
  return (
    <section
      id={laneElement(id)}
      className={`lane ${markOf(number)} ${focused ? "here" : ""} ${dragged ? "dropping" : ""}`}
      aria-label={t`Lane ${number}: ${name}`}
      onFocusCapture={() => store.screen.use(chat.id)}
      onPointerDown={() => store.screen.use(chat.id)}
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes("Files")) return;
        event.preventDefault();
        setDragged(mine);
      }}
      onDragLeave={() => setDragged(false)}
      onDrop={(event) => {
        setDragged(false);
        if (event.defaultPrevented) return;
        event.preventDefault();
        if (mine) store.words.dropped(chat.id, filesOf(event.dataTransfer));
      }}
    >
      <header className="lane-head">
        <div className="row">
          <span className="grip-place" />
          <span className="plate on">{number}</span>
          <h2 className="cut" dir="auto">
            {name}
          </h2>
          {chat.unread ? (
            <span className="unread">
              <Trans>unread</Trans>
            </span>
          ) : null}
          <ReplyClock chat={chat} />
        </div>
        <div className="row place">
          <bdi className="cut">
            {(chat.name ? chat.way?.address : chat.way?.line) || chat.email || t`no email`}
          </bdi>
          <span className="cut department">{chat.departmentName}</span>
          <LaneTools
            id={chat.id}
            over={chat.phase === "ended" && !chat.needsOutcome}
            focused={focused}
            single={single}
          />
        </div>
      </header>
      <ReplyBar chat={chat} />
      {chat.way ? (
        <Lazily>
          <WayLine chat={chat} way={chat.way} />
        </Lazily>
      ) : (
        <Where chat={chat} />
      )}
      <Script
        chat={chat}
        log={log}
        unsent={unsent}
        uploads={uploads}
        meId={me.id}
        visitorHere={here}
        connected={connected}
        onAnew={onAnew}
        onUploadAgain={onAgain}
        onUploadCancel={onCancel}
        onMore={onMore}
      />
      {menu ? (
        <Lazily>
          <MessageMenu
            chat={chat}
            event={menu.event}
            at={menu.at}
            onCorrect={setCorrecting}
            onClose={() => setMenu(undefined)}
          />
        </Lazily>
      ) : null}
      {chat.phase === "active" ? (
        <>
          {chat.way ? null : <Typing chat={chat} />}
          {mine ? (
            <>
              <Lazily>
                <LaneBars chat={chat} />
              </Lazily>
              <Composer
                key={refills}
                chatId={chat.id}
                limit={chat.messageLimit}
                name={firstName(chat.name)}
                number={number}
                primary={focused}
                translating={chat.translating}
                way={chat.way}
                correctable={correctable}
                correcting={correcting}
                onCorrect={setCorrecting}
              />
              <Lazily>
                {chat.guests?.length || chat.callDepartmentId ? <WithWhom chat={chat} /> : null}
                {owner ? null : <GuestFoot chat={chat} />}
              </Lazily>
              {owner ? <OwnerFoot chat={chat} name={name} focused={focused} /> : null}
            </>
          ) : watched ? (
            <Lazily>
              <WatcherFoot chat={chat} />
            </Lazily>
          ) : null}
        </>
      ) : (
        <Lazily>
          <EndedFoot chat={chat} focused={focused} />
        </Lazily>
      )}
    </section>
  );
}

/** Where the visitor is on the site, and for how long. */
function Where({ chat }: { chat: ChatView }) {
  const place = usePlaces((s) => s.places.get(chat.visitorId));
  return (
    <div className="where">
      <Icons.Eye />
      {place?.here ? (
        <>
          <span className="cut">
            <Trans>
              On{" "}
              <b>
                <bdi>{place.pageTitle || place.pageUrl || t`the site`}</bdi>
              </b>
            </Trans>
          </span>
          {place.pageUrl ? (
            <span className="how-long">
              <Trans>for</Trans> <Since at={place.pageSince} />
            </span>
          ) : null}
        </>
      ) : (
        <span className="cut">
          {chat.message && chat.email
            ? t`A message: your reply goes to ${chat.email} by email.`
            : chat.phase === "ended"
              ? t`Not on the site now.`
              : t`Not on the site now. They see your reply when they return.`}
        </span>
      )}
      {place ? (
        <span className="of-visitor">
          {[place.place.name, place.basket ? basketMoney(place.basket) : ""].filter(Boolean).join(" · ")}
        </span>
      ) : null}
    </div>
  );
}

/** What the visitor is typing, in a place of its own that never changes its size. */
function Typing({ chat }: { chat: ChatView }) {
  const draft = useScripts((s) => (chat.draftsSeen ? (s.drafts.get(chat.id)?.text ?? "") : ""));
  return (
    <div className={`draft ${draft ? "typing" : ""}`} aria-live="off">
      <p>
        {draft ? (
          <>
            <b>
              <Trans>typing:</Trans>
            </b>{" "}
            <i dir="auto">{draft}</i>
          </>
        ) : chat.draftsSeen ? (
          t`not typing`
        ) : (
          t`this site does not show what visitors type`
        )}
      </p>
    </div>
  );
}

interface ToolsProps {
  id: string;
  /** Nothing is owed any more: the lane can go for good. */
  over: boolean;
  focused: boolean;
  single: boolean;
}

/** What can be done with the lane itself. */
const LaneTools = memo(function LaneTools({ id, over, focused, single }: ToolsProps) {
  const store = useDeskStore();
  const isAlone = useWindows((s) => s.alone === id);
  const away = () => (over ? store.acts.close(id) : store.acts.putAway(id));
  useAct("alone", () => store.screen.showAlone(id), focused && !single);
  useAct("window", () => store.screen.openWindow(id), focused && !single);
  useAct("close-lane", away, focused && !single);
  if (single) {
    return (
      <span className="lane-tools">
        <Tool name={t`Back to the Desk`} onClick={() => window.close()}>
          <Icons.Lanes />
        </Tool>
      </span>
    );
  }
  return (
    <span className="lane-tools">
      <Tool
        name={isAlone ? t`Show all lanes` : t`Show only this lane`}
        act="alone"
        pressed={isAlone}
        onClick={() => store.screen.showAlone(id)}
      >
        <Icons.Alone />
      </Tool>
      <Tool name={t`Open in its own window`} act="window" onClick={() => store.screen.openWindow(id)}>
        <Icons.Window />
      </Tool>
      <Tool name={t`Close the lane; the chat stays in the line`} act="close-lane" onClick={away}>
        <Icons.Close />
      </Tool>
    </span>
  );
});
