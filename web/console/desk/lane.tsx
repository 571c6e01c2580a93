import Button from "@mui/material/Button";
import { useSnackbar } from "notistack";
import { useState } from "react";

import { clock, firstName, timeOfDay } from "../../shared/format";
import { emptyLog } from "../../shared/log";
import { wordsFor } from "../../shared/problem";
import type { ChatView } from "../../shared/types";
import { Icons } from "../icons";
import { About } from "./about";
import { Composer } from "./composer";
import { PassDialog, type Passing } from "./hand-on";
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
  const [about, setAbout] = useState(false);
  const name = chat.name || "Visitor";
  const owner = chat.ownerId === me.id;
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
          <span className="row">
            <span className="cut department">{chat.departmentName}</span>
            <Button
              className="about-toggle"
              aria-expanded={about}
              aria-label={`About ${name}: why here, and what they told before`}
              onClick={() => setAbout(!about)}
            >
              <Icons.Info /> About
            </Button>
          </span>
        </div>
      </header>
      <ReplyBar chat={chat} now={now} />
      {about ? <About chat={chat} log={log ?? emptyLog} /> : null}
      <div className="where">
        <Icons.Eye />
        {place?.here ? (
          <span className="cut">
            On <b>{place.pageTitle || place.pageUrl || "the site"}</b>{" "}
            <span className="clock">for {clock(now - Date.parse(place.pageSince))}</span>
          </span>
        ) : (
          <span className="cut">
            {chat.message && chat.email
              ? `A message: your answer goes to ${chat.email} by email.`
              : "Not on the site now. What you write waits for their return."}
          </span>
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
          <WithWhom chat={chat} />
          {owner ? <OwnerFoot chat={chat} name={name} now={now} /> : <GuestFoot chat={chat} />}
        </>
      ) : (
        <EndedFoot chat={chat} />
      )}
    </section>
  );
}

/** Says who else speaks in the chat, so that nobody wonders who owns it. */
function WithWhom({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const { operators, me } = useDesk();
  const { enqueueSnackbar } = useSnackbar();
  const guests = (chat.guests ?? [])
    .map((id) => operators.find((o) => o.id === id))
    .filter((o) => o !== undefined);
  if (guests.length === 0) return null;
  const owner = chat.ownerId === me.id;
  return (
    <div className="with-whom">
      <Icons.Person />
      <span>
        {owner ? "You own this chat." : `${chat.ownerName ?? "A colleague"} owns this chat.`} Also here:
      </span>
      {guests.map((o) => (
        <span key={o.id} className="guest">
          {o.id === me.id ? "you" : o.name}
          {owner ? (
            <button
              className="link"
              onClick={() =>
                store
                  .removeColleague(chat.id, o.id)
                  .catch((error: unknown) => enqueueSnackbar(wordsFor(error), { variant: "error" }))
              }
            >
              take out
            </button>
          ) : null}
        </span>
      ))}
    </div>
  );
}

function GuestFoot({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const { me } = useDesk();
  const { enqueueSnackbar } = useSnackbar();
  const leave = () => {
    store
      .removeColleague(chat.id, me.id)
      .catch((error: unknown) => enqueueSnackbar(wordsFor(error), { variant: "error" }));
  };
  return (
    <footer className="lane-foot">
      <Button onClick={leave} startIcon={<Icons.Door />}>
        Leave the chat
      </Button>
    </footer>
  );
}

function OwnerFoot({ chat, name, now }: { chat: ChatView; name: string; now: number }) {
  const store = useDeskStore();
  const { enqueueSnackbar } = useSnackbar();
  const [asking, setAsking] = useState(false);
  const [passing, setPassing] = useState<Passing | null>(null);
  const fail = (error: unknown) => enqueueSnackbar(wordsFor(error), { variant: "error" });
  const end = () => {
    setAsking(false);
    store.end(chat.id).catch(fail);
  };
  if (chat.handingUntil) {
    return (
      <footer className="lane-foot handing">
        <span className="cut">
          <Icons.Passing /> Offered to <b>{chat.handingToName}</b>, comes back in{" "}
          <span className="clock">{clock(Date.parse(chat.handingUntil) - now + 999)}</span>
        </span>
        <Button variant="outlined" onClick={() => void store.takeBack(chat.id).catch(fail)}>
          Take back
        </Button>
      </footer>
    );
  }
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
        <>
          <Button onClick={() => setPassing("hand-on")} startIcon={<Icons.Passing />}>
            Hand on
          </Button>
          <Button onClick={() => setPassing("colleague")} startIcon={<Icons.Person />}>
            Add colleague
          </Button>
          {chat.message ? null : (
            <Button onClick={() => setPassing("put-back")} startIcon={<Icons.Back />}>
              Put back
            </Button>
          )}
          <Button onClick={() => setAsking(true)} startIcon={<Icons.Door />}>
            End
          </Button>
        </>
      )}
      {passing ? <PassDialog chat={chat} passing={passing} onClose={() => setPassing(null)} /> : null}
    </footer>
  );
}

function EndedFoot({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const now = useNow();
  const wrapping = chat.wrapUntil && Date.parse(chat.wrapUntil) > now;
  return (
    <footer className="lane-foot ended">
      <span>
        <Icons.Door /> Chat ended{chat.endedAt ? ` at ${timeOfDay(chat.endedAt)}` : ""}.{" "}
        {wrapping && chat.wrapUntil ? (
          <>
            Your wrap-up counts as a chat for{" "}
            <span className="clock">{clock(Date.parse(chat.wrapUntil) - now + 999)}</span>
          </>
        ) : (
          "The transcript is kept."
        )}
      </span>
      <Button variant="outlined" onClick={() => store.close(chat.id)}>
        {wrapping ? "Done" : "Close lane"}
      </Button>
    </footer>
  );
}
