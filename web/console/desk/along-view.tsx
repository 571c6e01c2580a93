import "./along-view.css";
import "./lane-note.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useRef, useState } from "react";

import { api, ask } from "../../shared/api";
import type { AlongView as Along, ChatView } from "../../shared/types";
import { AlongFrame, type AlongHandle } from "../along/along-frame";
import type { FromAlong } from "../along/messages";
import { Receiver } from "../along/receiver";
import { Icons } from "../icons";
import { sayTrouble } from "../kit/say";
import { useDeskStore, useMe } from "./provider";

/** Looking along: whether the visitor lets us, their page as they see it, and the way to end it. */
export default function AlongBar({ chat, along }: { chat: ChatView; along: Along }) {
  const me = useMe();
  const mine = along.by === me.id;
  const [large, setLarge] = useState(false);
  const end = () => {
    const params = { path: { id: chat.id, number: along.number } };
    ask(api.DELETE("/api/chats/{id}/along/{number}", { params })).catch(sayTrouble);
  };
  return (
    <>
      <div className="lane-note" role="status">
        <Icons.Eye />
        <span className="what">
          {!along.on ? (
            <Trans>Asked to look along. The visitor has not answered.</Trans>
          ) : !mine ? (
            <Trans>{along.name} looks along.</Trans>
          ) : along.scroll ? (
            <Trans>You see their page. Click points at a place; the wheel scrolls it for them.</Trans>
          ) : (
            <Trans>You see their page. Click points at a place.</Trans>
          )}
        </span>
        {along.on && mine ? (
          <button type="button" className="link" aria-pressed={large} onClick={() => setLarge(!large)}>
            {large ? <Trans>Smaller</Trans> : <Trans>Larger</Trans>}
          </button>
        ) : null}
        <button type="button" className="link" onClick={end}>
          {along.on ? <Trans>End looking along</Trans> : <Trans>Take back</Trans>}
        </button>
      </div>
      {along.on && mine ? (
        <Seen chatId={chat.id} number={along.number} may={along.scroll === true} large={large} />
      ) : null}
    </>
  );
}

interface SeenProps {
  chatId: string;
  number: number;
  may: boolean;
  large: boolean;
}

function Seen({ chatId, number, may, large }: SeenProps) {
  const store = useDeskStore();
  const frame = useRef<AlongHandle>(null);
  const [drawn, setDrawn] = useState(false);
  const [ready, setReady] = useState(false);
  const wish = (what: string, more: object = {}) => {
    store.wish({ chatId, number, what, ...more }).catch(() => undefined); // said again with the next part
  };
  useEffect(() => {
    if (!ready) return;
    const fresh = () => store.wish({ chatId, number, what: "fresh" }).catch(() => undefined);
    const receiver = new Receiver(
      (events) => {
        frame.current?.tell({ kind: "events", events });
        setDrawn(true);
      },
      () => void fresh(),
    );
    const stop = store.onAlong((part) => {
      if (part.chatId !== chatId || part.number !== number) return;
      receiver.take(part);
      void store.wish({ chatId, number, what: "got", of: part.of, part: part.part }).catch(() => undefined);
    });
    void fresh();
    return stop;
  }, [store, chatId, number, ready]);
  const heard = (message: FromAlong) => {
    switch (message.kind) {
      case "ready":
        return setReady(true);
      case "broken":
        return wish("fresh");
      case "point":
        return wish("point", { x: message.x, y: message.y });
      case "scroll":
        if (may) wish("scroll", { y: message.y });
    }
  };
  return (
    <section className={`along-seen ${large ? "large" : ""}`} aria-label={t`What the visitor sees`}>
      <AlongFrame ref={frame} onMessage={heard} />
      {drawn ? null : (
        <p className="waiting">
          <Trans>The page is on its way…</Trans>
        </p>
      )}
    </section>
  );
}
