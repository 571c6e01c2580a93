import Button from "@mui/material/Button";
import { useSnackbar } from "notistack";
import { useState } from "react";

import { clock, firstName, timeOfDay } from "../../shared/format";
import { emptyLog } from "../../shared/log";
import { wordsFor } from "../../shared/problem";
import type { ChatView } from "../../shared/types";
import { Icons } from "../icons";
import { Composer } from "./composer";
import { useDesk, useDeskStore, useNow } from "./provider";
import { ReplyBar, ReplyClock } from "./reply-clock";
import { Script } from "./script";

/** One conversation, whole: who it is, where they are, what was said, and where to write. */
export function Lane({ chat, number, focused }: { chat: ChatView; number: number; focused: boolean }) {
  const store = useDeskStore();
  const { logs, drafts, unsent, places, refills, connection, me } = useDesk();
  const now = useNow();
  const log = logs.get(chat.id);
  const place = places.get(chat.visitorId);
  const draft = drafts.get(chat.id);
  const name = chat.name || "Visitor";
  return (
    <section
      className={`lane ${focused ? "here" : ""}`}
      aria-label={`Lane ${number}: ${name}`}
      onFocusCapture={() => store.use(chat.id)}
      onPointerDown={() => store.use(chat.id)}
    >
      <header className="lane-head">
        <div className="row">
          <span className="plate on">{number}</span>
          <h2 className="cut">
            <bdi>{name}</bdi>
          </h2>
          <ReplyClock chat={chat} now={now} />
        </div>
        <div className="row place">
          <span className="cut">{chat.email || "no email given"}</span>
          <span className="cut">{chat.widgetName}</span>
        </div>
      </header>
      <ReplyBar chat={chat} now={now} />
      <div className="where">
        <Icons.Eye />
        {place?.here ? (
          <span className="cut">
            On <b>{place.pageTitle || place.pageUrl || "the site"}</b>{" "}
            <span className="clock">for {clock(now - Date.parse(place.pageSince))}</span>
          </span>
        ) : (
          <span className="cut">Not on the site now. What you write waits for their return.</span>
        )}
      </div>
      <Script
        chat={chat}
        log={log ?? emptyLog}
        unsent={unsent.get(chat.id) ?? []}
        meId={me.id}
        visitorHere={place?.here ?? false}
        connected={connection !== "lost"}
        onAnew={(clientId) => store.writeAnew(chat.id, clientId)}
      />
      {chat.phase === "active" ? (
        <>
          <div className={`draft ${draft?.text ? "typing" : ""}`} aria-live="off">
            {draft?.text ? (
              <>
                <b>typing:</b> <i dir="auto">{draft.text}</i>
              </>
            ) : (
              "not typing"
            )}
          </div>
          <Composer
            key={refills.get(chat.id) ?? 0}
            chat={chat}
            name={firstName(chat.name)}
            primary={focused}
          />
          <LaneFoot chat={chat} name={name} />
        </>
      ) : (
        <EndedFoot chat={chat} />
      )}
    </section>
  );
}

function LaneFoot({ chat, name }: { chat: ChatView; name: string }) {
  const store = useDeskStore();
  const { enqueueSnackbar } = useSnackbar();
  const [asking, setAsking] = useState(false);
  const end = () => {
    setAsking(false);
    store.end(chat.id).catch((error: unknown) => enqueueSnackbar(wordsFor(error), { variant: "error" }));
  };
  return (
    <footer className="lane-foot">
      {asking ? (
        <div role="group" aria-label={`End the chat with ${name}?`} className="asking">
          <span className="cut">
            End the chat with <bdi>{name}</bdi>?
          </span>
          <Button variant="outlined" autoFocus onClick={end}>
            End it
          </Button>
          <Button onClick={() => setAsking(false)}>Go on</Button>
        </div>
      ) : (
        <Button onClick={() => setAsking(true)} startIcon={<Icons.Door />}>
          End
        </Button>
      )}
    </footer>
  );
}

function EndedFoot({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  return (
    <footer className="lane-foot ended">
      <span>
        <Icons.Door /> Chat ended{chat.endedAt ? ` at ${timeOfDay(chat.endedAt)}` : ""}. The transcript is
        kept.
      </span>
      <Button variant="outlined" onClick={() => store.close(chat.id)}>
        Close lane
      </Button>
    </footer>
  );
}
