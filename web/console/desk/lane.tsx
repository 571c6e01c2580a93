import { memo, useCallback, useState, type ReactNode, type Ref } from "react";

import { firstName } from "../../shared/format";
import { emptyLog } from "../../shared/log";
import type { Unsent } from "../../shared/outbox";
import { filesOf } from "../../shared/upload";
import type { ChatView, EventView } from "../../shared/types";
import { Icons } from "../icons";
import { useAct } from "../keyboard/keyboard";
import { Tool } from "../kit/tool";
import { Composer } from "./composer";
import { EndedFoot } from "./ended-foot";
import { GuestFoot, OwnerFoot, WatcherFoot, WithWhom } from "./lane-foot";
import { MessageMenu, mayChange } from "./message-menu";
import { markOf } from "./marks";
import { useAt, useDeskPart, useDeskStore } from "./provider";
import { ReplyBar, ReplyClock, Since } from "./reply-clock";
import { Script } from "./script";
import type { Upload } from "./uploads";

const nothingUnsent: Unsent[] = [];
const noUploads: Upload[] = [];

interface Props {
  chat: ChatView;
  number: number;
  focused: boolean;
  /** What moves the lane, beside its number. */
  handle?: ReactNode;
  /** The lane stands in a window of its own. */
  single?: boolean;
  ref?: Ref<HTMLElement>;
  style?: React.CSSProperties;
}

/** One conversation, whole: who it is, where they are, what was said, and where to write. */
export function Lane({ chat, number, focused, handle, single = false, ref, style }: Props) {
  const store = useDeskStore();
  const me = useDeskPart((s) => s.me);
  const log = useDeskPart((s) => s.logs.get(chat.id)) ?? emptyLog;
  const unsent = useDeskPart((s) => s.unsent.get(chat.id)) ?? nothingUnsent;
  const uploads = useDeskPart((s) => s.uploads.get(chat.id)) ?? noUploads;
  const refills = useDeskPart((s) => s.refills.get(chat.id)) ?? 0;
  const connected = useDeskPart((s) => s.connection !== "lost");
  const watched = useDeskPart((s) => s.watched.has(chat.id));
  const here = useDeskPart((s) => s.places.get(chat.visitorId)?.here ?? false);
  const [menu, setMenu] = useState<{ event: EventView; at: HTMLElement } | undefined>();
  const [correcting, setCorrecting] = useState<EventView | undefined>();
  const [dragged, setDragged] = useState(false);
  const name = chat.name || "Visitor";
  const owner = chat.ownerId === me.id;
  const mine = store.isMine(chat);
  const id = chat.id;
  const onAnew = useCallback((clientId: string) => store.writeAnew(id, clientId), [store, id]);
  const onAgain = useCallback((clientId: string) => store.shareAgain(clientId), [store]);
  const onCancel = useCallback((clientId: string) => store.cancelUpload(id, clientId), [store, id]);
  const onMore = useCallback((event: EventView, at: HTMLElement) => setMenu({ event, at }), [setMenu]);
  const last = log.events.findLast((e) => e.kind === "said" && e.side === "team" && e.by === me.id);
  const stillMine = useAt((now) => last !== undefined && mayChange(last, me.id, chat, now));
  const correctable = stillMine ? last : undefined;
  return (
    <section
      ref={ref}
      style={style}
      className={`lane ${markOf(number)} ${focused ? "here" : ""} ${dragged ? "dropping" : ""}`}
      aria-label={`Lane ${number}: ${name}`}
      onFocusCapture={() => store.use(chat.id)}
      onPointerDown={() => store.use(chat.id)}
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
        if (mine) store.dropped(chat.id, filesOf(event.dataTransfer));
      }}
    >
      <header className="lane-head">
        <div className="row">
          {handle}
          <span className="plate on">{number}</span>
          <h2 className="cut">
            <bdi>{name}</bdi>
          </h2>
          {chat.unread ? <span className="unread">unread</span> : null}
          <ReplyClock chat={chat} />
        </div>
        <div className="row place">
          <bdi className="cut">{chat.email || "no email"}</bdi>
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
      <Where chat={chat} />
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
        <MessageMenu
          chat={chat}
          event={menu.event}
          at={menu.at}
          onCorrect={setCorrecting}
          onClose={() => setMenu(undefined)}
        />
      ) : null}
      {chat.phase === "active" ? (
        <>
          <Typing chat={chat} />
          {mine ? (
            <>
              <Composer
                key={refills}
                chatId={chat.id}
                limit={chat.messageLimit}
                name={firstName(chat.name)}
                number={number}
                primary={focused}
                correctable={correctable}
                correcting={correcting}
                onCorrect={setCorrecting}
              />
              <WithWhom chat={chat} />
              {owner ? <OwnerFoot chat={chat} name={name} focused={focused} /> : <GuestFoot chat={chat} />}
            </>
          ) : watched ? (
            <WatcherFoot chat={chat} />
          ) : null}
        </>
      ) : (
        <EndedFoot chat={chat} focused={focused} />
      )}
    </section>
  );
}

/** Where the visitor is on the site, and for how long. */
function Where({ chat }: { chat: ChatView }) {
  const place = useDeskPart((s) => s.places.get(chat.visitorId));
  return (
    <div className="where">
      <Icons.Eye />
      {place?.here ? (
        <>
          <span className="cut">
            On{" "}
            <b>
              <bdi>{place.pageTitle || place.pageUrl || "the site"}</bdi>
            </b>
          </span>
          {place.pageUrl ? (
            <span className="how-long">
              for <Since at={place.pageSince} />
            </span>
          ) : null}
        </>
      ) : (
        <span className="cut">
          {chat.message && chat.email
            ? `A message: your reply goes to ${chat.email} by email.`
            : `Not on the site now.${chat.phase === "ended" ? "" : " They see your reply when they return."}`}
        </span>
      )}
    </div>
  );
}

/** What the visitor is typing, in a place of its own that never changes its size. */
function Typing({ chat }: { chat: ChatView }) {
  const draft = useDeskPart((s) => (chat.draftsSeen ? (s.drafts.get(chat.id)?.text ?? "") : ""));
  return (
    <div className={`draft ${draft ? "typing" : ""}`} aria-live="off">
      <p>
        {draft ? (
          <>
            <b>typing:</b> <i dir="auto">{draft}</i>
          </>
        ) : chat.draftsSeen ? (
          "not typing"
        ) : (
          "this site does not show what visitors type"
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
  const isAlone = useDeskPart((s) => s.alone === id);
  const away = () => (over ? store.close(id) : store.putAway(id));
  useAct("alone", () => store.showAlone(id), focused && !single);
  useAct("window", () => store.openWindow(id), focused && !single);
  useAct("close-lane", away, focused && !single);
  if (single) {
    return (
      <span className="lane-tools">
        <Tool name="Back to the Desk" onClick={() => window.close()}>
          <Icons.Lanes />
        </Tool>
      </span>
    );
  }
  return (
    <span className="lane-tools">
      <Tool
        name={isAlone ? "Show all lanes" : "Show only this lane"}
        act="alone"
        pressed={isAlone}
        onClick={() => store.showAlone(id)}
      >
        <Icons.Alone />
      </Tool>
      <Tool name="Open in its own window" act="window" onClick={() => store.openWindow(id)}>
        <Icons.Window />
      </Tool>
      <Tool name="Close the lane; the chat stays in the line" act="close-lane" onClick={away}>
        <Icons.Close />
      </Tool>
    </span>
  );
});
