import "./talk.css";

import { Suspense } from "react";

import { AlongStrip, GoOn, PageStrip, Survey, Tickets } from "./parts";
import { Composer } from "./composer";
import { Conversation } from "./conversation";
import type { PanelState } from "./state";
import type { PanelStore } from "./store";
import { talkTexts } from "./talk-texts";
import { Uploads } from "./uploads";

/** A chat that has begun: what was said, and where to write. Its code comes with it. */
export default function Talking({ store, state }: { store: PanelStore; state: PanelState }) {
  store.sharesBy(Uploads);
  const { widget, chat } = state;
  if (!widget) return null;
  const open = chat !== undefined && chat.phase !== "ended";
  // Once there, it stays: when the showing ends it leads back.
  const shown = state.log.events.some((e) => e.kind === "page-moved");
  const asked = state.log.events.some((e) => e.kind === "along-asked");
  const goes = open && state.log.events.some((e) => e.kind.startsWith("channel-"));
  // Of this chat, or a mail's link leads to one.
  const ticketed = state.log.events.some((e) => e.kind === "ticketed") || location.search.includes("ticket=");
  return (
    <>
      <Conversation store={store} state={state} />
      {ticketed ? (
        <Suspense>
          <Tickets store={store} />
        </Suspense>
      ) : null}
      {goes ? (
        <Suspense>
          <GoOn store={store} state={state} />
        </Suspense>
      ) : null}
      {asked ? (
        <Suspense>
          <AlongStrip store={store} state={state} />
        </Suspense>
      ) : null}
      {shown ? (
        <Suspense>
          <PageStrip store={store} state={state} />
        </Suspense>
      ) : null}
      {chat?.phase === "ended" ? (
        <div className="after">
          {chat.survey ? (
            <Suspense>
              <Survey key={chat.id} store={store} chatId={chat.id} said={chat.survey} widget={widget} />
            </Suspense>
          ) : null}
          <button className="go" data-first onClick={() => store.another()}>
            {talkTexts.another}
          </button>
        </div>
      ) : (
        <Composer
          key={state.refills}
          store={store}
          name={(chat?.ownerName ?? "").split(" ")[0] ?? ""}
          limit={widget.messageLimit}
          chatKey={widget.key}
          draftsSeen={widget.draftsSeen}
          files={widget.visitorFiles && open}
        />
      )}
    </>
  );
}
