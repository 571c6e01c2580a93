import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useEffect } from "react";

import { clock } from "../../shared/format";
import type { ChatView } from "../../shared/types";
import { Icons } from "../icons";
import { hintOf } from "../keyboard/acts";
import { Button } from "../kit/button";
import { sayTrouble } from "../kit/say";
import { Card } from "./card";
import { useLastWords } from "./line-cards";
import { useChat, useDeskStore, useNow } from "./provider";

/** Tells somebody whom Stoop set away, and how to come back. */
export function SetAway({ passes }: { passes: number }) {
  const store = useDeskStore();
  const back = () => {
    store.acts.setAvailable(true).catch(sayTrouble);
  };
  return (
    <section className="set-away" role="alert">
      <p>
        <Icons.Pause />{" "}
        <Trans>
          <b>You are now away.</b> You missed {passes} offers in a row, so new chats go to your colleagues.
          The chats you hold stay yours.
        </Trans>
      </p>
      <Button variant="outlined" onClick={back}>
        <Trans>I’m back</Trans>
      </Button>
      <Button onClick={() => store.acts.readAway()}>
        <Trans>Stay away</Trans>
      </Button>
    </section>
  );
}

/** Colleagues who ask one of my departments for help. */
export function Calls({ called }: { called: string[] }) {
  return (
    <section aria-labelledby="calls-head" className="calls">
      <header>
        <h2 id="calls-head">
          <Trans>Colleagues asking for help</Trans>
        </h2>
        <span className="count new">{called.length}</span>
      </header>
      <ul aria-label={t`Colleagues asking for help`}>
        {called.map((id) => (
          <CallCard key={id} id={id} />
        ))}
      </ul>
    </section>
  );
}

/** A colleague's chat in which my department is asked for help. */
function CallCard({ id }: { id: string }) {
  const chat = useChat(id);
  return chat ? <Call chat={chat} /> : null;
}

function Call({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const now = useNow();
  const asked = useLastWords(chat.id, "called");
  useEffect(() => store.scripts.look(chat.id), [store, chat.id]);
  return (
    <Card id={chat.id} className="offer">
      <div className="row">
        <span className="name cut">
          <Trans>
            <bdi>{chat.ownerName}</bdi> asks
          </Trans>
        </span>
        <span className="clock" role="timer">
          {clock(now - Date.parse(chat.callSince ?? chat.since))}
        </span>
      </div>
      <div className="row meta">
        <span className="cut">
          <Trans>
            about <bdi>{chat.name || t`a visitor`}</bdi>
          </Trans>
        </span>
      </div>
      {asked ? (
        <p className="note-words" dir="auto">
          {asked}
        </p>
      ) : (
        <p className="ask" dir="auto">
          {chat.lastWords}
        </p>
      )}
      <div className="row acts">
        <Button variant="outlined" onClick={() => store.acts.join(chat.id).catch(sayTrouble)}>
          <Trans>
            Join <span className="key">{hintOf("help-team")}</span>
          </Trans>
        </Button>
      </div>
    </Card>
  );
}
