import "./with-helper.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect, useState } from "react";

import { api, ask } from "../../shared/api";
import type { ChatView, EventView } from "../../shared/types";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { sayTrouble } from "../kit/say";
import { Card } from "./card";
import { idsOf, useChat, useChats, useDeskStore, useListed, useScripts, useWindows } from "./provider";
import { Since } from "./reply-clock";
import { helped } from "./store/lists";
import { nameOf } from "./name-of";

// As many lines of a conversation as one takes in at a glance.
const glance = 8;

/** Who speaks with the helper: nobody waits, and anybody may step in. */
export default function WithHelper() {
  const ids = useListed((chats, me) => idsOf(helped(chats, me)));
  const ledTo = useWindows((s) => s.ledTo);
  const [followed, setFollowed] = useState<typeof ledTo>();
  const [open, setOpen] = useState("");
  if (ledTo !== followed) {
    // Whoever is led to one wants to see what is said there.
    setFollowed(ledTo);
    if (ledTo) setOpen(ledTo.id);
  }
  if (ids.length === 0) return null;
  return (
    <section aria-labelledby="helped-head" className="with-helper">
      <header>
        <h2 id="helped-head">
          <Trans>With the helper</Trans>
        </h2>
        <span className="count">{ids.length}</span>
      </header>
      <ul aria-label={t`Visitors with the helper`}>
        {ids.map((id) => (
          <HelpedCard key={id} id={id} open={open === id} turn={() => setOpen(open === id ? "" : id)} />
        ))}
      </ul>
    </section>
  );
}

interface CardProps {
  id: string;
  open: boolean;
  turn: () => void;
}

function HelpedCard({ id, open, turn }: CardProps) {
  const chat = useChat(id);
  return chat ? <Helped chat={chat} open={open} turn={turn} /> : null;
}

function Helped({ chat, open, turn }: { chat: ChatView } & Omit<CardProps, "id">) {
  const store = useDeskStore();
  const taking = useChats((s) => s.taking.has(chat.id));
  const told = chat.helper?.answers ?? [];
  return (
    <Card id={chat.id} className={open ? "open" : ""}>
      <button className="wait" aria-expanded={open} onClick={turn}>
        <span className="row">
          <bdi className="name cut">{nameOf(chat)}</bdi>
          <span className="when" aria-hidden="true">
            <Since at={chat.startedAt} />
          </span>
        </span>
        <span className="row meta">
          <span className="cut">{chat.departmentName}</span>
          <span>{chat.helper?.answered ? t`answered` : t`no answer yet`}</span>
        </span>
        {open ? null : (
          <span className="ask" dir="auto">
            {chat.lastWords}
          </span>
        )}
      </button>
      {open ? (
        <div className="glance">
          <div className="row acts">
            <Button variant="outlined" disabled={taking} onClick={() => void store.acts.take(chat.id)}>
              <Trans>Step in</Trans>
            </Button>
            <Button
              startIcon={<Icons.Pause />}
              onClick={() => {
                const params = { path: { id: chat.id } };
                ask(api.POST("/api/chats/{id}/helper/pause", { params })).catch(sayTrouble);
              }}
            >
              <Trans>Stop the helper</Trans>
            </Button>
          </div>
          <p className="hint">
            <Trans>Stopped, the visitor waits in the queue for somebody of the team.</Trans>
          </p>
          <Said id={chat.id} />
          {told.length > 0 ? (
            <dl>
              {told.map((a) => (
                <div key={a.name}>
                  <dt>{a.label}</dt>
                  <dd dir="auto">{a.value}</dd>
                </div>
              ))}
            </dl>
          ) : null}
        </div>
      ) : null}
    </Card>
  );
}

/** The last words of a conversation with the helper. */
function Said({ id }: { id: string }) {
  const store = useDeskStore();
  const events = useScripts((s) => s.logs.get(id)?.events);
  useEffect(() => store.scripts.look(id), [store, id]);
  if (!events) return <p aria-busy="true" />;
  const said = events.filter((e) => e.kind === "said" || e.kind === "helper-said");
  const earlier = said.length - glance;
  return (
    <div className="said" role="log" aria-label={t`Last words`}>
      {earlier > 0 ? (
        <p className="hint">{plural(earlier, { one: "# line before", other: "# lines before" })}</p>
      ) : null}
      {said.slice(-glance).map((e) => (
        <p key={e.number} className={e.side} dir="auto">
          <b>{who(e)}</b> {e.text}
        </p>
      ))}
    </div>
  );
}

function who(e: EventView): string {
  return e.side === "house" ? t`Helper` : e.name || t`Visitor`;
}
