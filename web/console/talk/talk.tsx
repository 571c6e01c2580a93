import "./talk.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useInfiniteQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import { api, ask } from "../../shared/api";
import { dayAndTime, timeOfDay } from "../../shared/format";
import { Outbox, type Unsent } from "../../shared/outbox";
import { usePinned } from "../../shared/pinned";
import { ProblemError, wordsFor, textOf } from "../../shared/problem";
import { keepInFront } from "../../shared/storage";
import type { RoomView, TalkView } from "../../shared/types";
import { Words } from "../../shared/words";
import { useDeskStore, useMe, useTeam } from "../desk/provider";
import { useKept } from "../forms/kept";
import { Icons } from "../icons";
import { Button, IconButton } from "../kit/button";
import { InputBase } from "../kit/input";
import { say, sayTrouble } from "../kit/say";
import { stateWords } from "../words/codes";
import { useRooms } from "./rooms";

interface Props {
  /** Opens with this colleague. */
  with?: string | undefined;
  onClose: () => void;
}

/** The team talk: rooms and people, in a sheet of its own, apart from what visitors write. */
export default function TalkSheet({ with: withId, onClose }: Props) {
  const rooms = useRooms();
  const [open, setOpen] = useState("");
  const [making, setMaking] = useState(false);
  const queries = useQueryClient();
  const begin = useCallback(
    (members: string[], name?: string) => {
      ask(api.POST("/api/rooms", { body: name ? { members, name } : { members } })).then(async (room) => {
        await queries.invalidateQueries({ queryKey: ["rooms"] });
        setMaking(false);
        setOpen(room.id);
      }, sayTrouble);
    },
    [queries],
  );
  useEffect(() => {
    if (withId) begin([withId]);
  }, [withId, begin]);
  const sheet = useRef<HTMLElement>(null);
  const [before] = useState(() => document.activeElement);
  useEffect(() => {
    sheet.current?.focus(); // it was asked for
    return () => {
      // Whoever wrote to a visitor before goes on there.
      if (document.activeElement !== document.body) return;
      const lane = document.querySelector<HTMLElement>(".lane.here textarea:not([aria-hidden])");
      (before instanceof HTMLElement && before.isConnected ? before : lane)?.focus();
    };
  }, [before]);
  const back = () => {
    setOpen("");
    setMaking(false);
    sheet.current?.focus(); // Esc goes on working here
  };
  const list = rooms.data ?? [];
  const room = list.find((r) => r.id === open);
  return (
    <aside
      ref={sheet}
      tabIndex={-1}
      className="talk"
      aria-label={t`Team talk`}
      onKeyDown={(e) => {
        if (e.key === "Escape" && !e.defaultPrevented) {
          if (room || making) back();
          else onClose();
        }
      }}
    >
      <header>
        {room || making ? (
          <IconButton size="small" aria-label={t`All rooms`} onClick={back}>
            <Icons.Back />
          </IconButton>
        ) : null}
        <h2 className="cut">{room ? room.name : making ? t`New room` : t`Team talk`}</h2>
        <IconButton size="small" aria-label={t`Close the team talk`} onClick={onClose}>
          <Icons.Close />
        </IconButton>
      </header>
      <p className="apart">
        <Icons.Note /> <Trans>Team only. Never part of transcripts or reports.</Trans>
      </p>
      {rooms.isError ? (
        <p className="nothing" role="alert">
          {wordsFor(rooms.error)}
        </p>
      ) : null}
      {room ? (
        <Room key={room.id} room={room} />
      ) : making ? (
        <NewRoom onMake={begin} />
      ) : (
        <Rooms list={list} onOpen={setOpen} onWith={(id) => begin([id])} onNew={() => setMaking(true)} />
      )}
    </aside>
  );
}

interface RoomsProps {
  list: RoomView[];
  onOpen: (id: string) => void;
  onWith: (operatorId: string) => void;
  onNew: () => void;
}

function Rooms({ list, onOpen, onWith, onNew }: RoomsProps) {
  const operators = useTeam((s) => s.operators);
  const me = useMe();
  const two = new Set(list.filter((r) => r.two).flatMap((r) => r.members));
  const others = operators.filter((o) => o.id !== me.id && !two.has(o.id));
  return (
    <div className="rooms">
      <ul aria-label={t`Rooms`}>
        {list.map((r) => (
          <li key={r.id}>
            <button onClick={() => onOpen(r.id)}>
              <span className="row">
                <b className="cut">{r.name}</b>
                {r.unseen > 0 ? (
                  <span className="count new" aria-label={t`${r.unseen} new`}>
                    {r.unseen}
                  </span>
                ) : (
                  <span className="meta">{r.last ? timeOfDay(r.last.at) : ""}</span>
                )}
              </span>
              <span className="cut meta">
                <bdi>
                  {r.last
                    ? `${r.last.by === me.id ? t`You` : r.last.name}: ${r.last.text}`
                    : t`No messages yet`}
                </bdi>
              </span>
            </button>
          </li>
        ))}
      </ul>
      <Button variant="outlined" startIcon={<Icons.Plus />} onClick={onNew}>
        <Trans>New room</Trans>
      </Button>
      {others.length > 0 ? (
        <h3>
          <Trans>Message a colleague</Trans>
        </h3>
      ) : null}
      <ul aria-label={t`Colleagues`}>
        {others.map((o) => (
          <li key={o.id}>
            <button onClick={() => onWith(o.id)}>
              <span className="row">
                <span className="cut">{o.name}</span>
                <span className="meta">{stateWords(o.state)}</span>
              </span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

function NewRoom({ onMake }: { onMake: (members: string[], name?: string) => void }) {
  const operators = useTeam((s) => s.operators);
  const me = useMe();
  const [name, setName] = useState("");
  const [members, setMembers] = useState<string[]>([]);
  const others = operators.filter((o) => o.id !== me.id);
  return (
    <form
      className="new-room"
      onSubmit={(e) => {
        e.preventDefault();
        onMake(members, name.trim());
      }}
    >
      <label>
        <span>
          <Trans>Name of the room</Trans>
        </span>
        <input autoFocus value={name} maxLength={60} onChange={(e) => setName(e.target.value)} />
      </label>
      <fieldset>
        <legend>
          <Trans>Who is in it (nobody ticked means the whole team)</Trans>
        </legend>
        {others.map((o) => (
          <label key={o.id} className="tick">
            <input
              type="checkbox"
              checked={members.includes(o.id)}
              onChange={(e) =>
                setMembers(e.target.checked ? [...members, o.id] : members.filter((id) => id !== o.id))
              }
            />
            <span>{o.name}</span>
          </label>
        ))}
      </fieldset>
      <Button type="submit" variant="contained" disabled={!name.trim()}>
        <Trans>Create room</Trans>
      </Button>
    </form>
  );
}

function Room({ room }: { room: RoomView }) {
  const store = useDeskStore();
  const me = useMe();
  const queries = useQueryClient();
  const pages = useInfiniteQuery({
    queryKey: ["talk", room.id],
    initialPageParam: 0,
    queryFn: ({ pageParam }) =>
      ask(
        api.GET("/api/rooms/{id}/messages", {
          params: { path: { id: room.id }, query: { before: pageParam } },
        }),
      ),
    getNextPageParam: (page) => (page.length === 100 ? page[0]?.id : undefined),
    refetchOnMount: "always",
  });
  const [live, setLive] = useState<TalkView[]>([]);
  const [unsent, setUnsent] = useState<Unsent[]>([]);
  useEffect(() => store.onTalk((m) => m.roomId === room.id && setLive((l) => [...l, m])), [store, room.id]);
  // What was said while the connection was lost is asked for when it is back.
  const connection = useTeam((s) => s.connection);
  const connects = useTeam((s) => s.connects);
  const { refetch } = pages;
  const [readAt, setReadAt] = useState(connects);
  const behind = connection !== "live" || readAt !== connects;
  useEffect(() => {
    if (connection !== "live" || readAt === connects) return;
    void refetch().then((read) => {
      if (read.isSuccess) setReadAt(connects);
    });
  }, [connection, connects, readAt, refetch]);
  const outbox = useMemo(
    () =>
      new Outbox(
        `stoop.talk.${me.id}.${room.id}.`,
        async (m) => {
          const { clientId, text } = m;
          const said = await ask(
            api.POST("/api/rooms/{id}/messages", {
              params: { path: { id: room.id } },
              body: { clientId, text },
            }),
          );
          setLive((l) => [...l, said]);
        },
        () => setUnsent(outbox.list(room.id)),
      ),
    [me.id, room.id],
  );
  useEffect(() => {
    setUnsent(outbox.list(room.id)); // eslint-disable-line react-hooks/set-state-in-effect
    outbox.wake();
  }, [outbox, room.id]);
  const byId = new Map([...(pages.data?.pages.flat() ?? []), ...live].map((m) => [m.id, m] as const));
  const messages = [...byId.values()].sort((a, b) => a.id - b.id);
  const last = messages.at(-1)?.id ?? 0;
  useEffect(() => {
    // Not before everything up to there was read: between the old and a live word some may be missing.
    if (last <= room.seen || behind || pages.isPending) return;
    ask(api.PUT("/api/rooms/{id}/seen", { params: { path: { id: room.id } }, body: { upTo: last } })).then(
      () => queries.invalidateQueries({ queryKey: ["rooms"] }),
      () => undefined, // told again with the next word
    );
  }, [last, room.id, room.seen, queries, pages.isPending, behind]);

  const keptAs = `stoop.talk.draft.${room.id}`;
  const [typed, setTyped] = useKept(keptAs);
  const text = typed ?? "";
  const write = (words: string) => setTyped(words || null);
  const send = () => {
    if (!text.trim()) return;
    outbox.add(room.id, text.trim());
    write("");
  };
  const { box, onScroll } = usePinned(`${last} ${unsent.length}`);
  return (
    <>
      <div
        className="talk-log"
        role="log"
        aria-label={t`Talk in ${room.name}`}
        tabIndex={0}
        ref={box}
        onScroll={onScroll}
      >
        {pages.hasNextPage ? (
          <Button onClick={() => void pages.fetchNextPage()}>
            <Trans>Earlier</Trans>
          </Button>
        ) : messages.length === 0 && pages.isSuccess ? (
          <p className="nothing">
            <Trans>No messages yet. Write the first one below.</Trans>
          </p>
        ) : null}
        {messages.map((m) => (
          <div key={m.id} className="talk-line">
            <b>{m.by === me.id ? t`You` : m.name}</b> <time dateTime={m.at}>{dayAndTime(m.at)}</time>
            <p dir="auto">
              <Words text={m.text} />
            </p>
          </div>
        ))}
        {unsent.map((m) => (
          <div key={m.clientId} className="talk-line unsent">
            <b>
              <Trans>You</Trans>
            </b>{" "}
            <span className="meta">{m.problem ? t`Not sent. ${textOf(m.problem).title}.` : t`Sending`}</span>
            <p dir="auto">{m.text}</p>
            {m.problem ? (
              <button className="link" onClick={() => keepInFront(keptAs, outbox.discard(m.clientId))}>
                <Trans>Edit and resend</Trans>
              </button>
            ) : null}
          </div>
        ))}
      </div>
      <form
        className="composer"
        onSubmit={(e) => {
          e.preventDefault();
          send();
        }}
      >
        <InputBase
          className="write"
          multiline
          maxRows={6}
          fullWidth
          autoFocus
          value={text}
          placeholder={t`To ${room.name}`}
          inputProps={{ "aria-label": t`Write to ${room.name}`, dir: "auto", maxLength: 4000 }}
          onChange={(e) => write(e.target.value)}
          onKeyDown={(e) => {
            if (e.key !== "Enter" || e.shiftKey || e.nativeEvent.isComposing) return;
            e.preventDefault();
            send();
          }}
        />
        <div className="row">
          {room.two ? (
            <span />
          ) : (
            <button
              type="button"
              className="link"
              onClick={() =>
                ask(api.DELETE("/api/rooms/{id}/me", { params: { path: { id: room.id } } })).then(
                  () => queries.invalidateQueries({ queryKey: ["rooms"] }),
                  (error: unknown) =>
                    say(
                      error instanceof ProblemError ? textOf(error.problem).detail : wordsFor(error),
                      "error",
                    ),
                )
              }
            >
              <Trans>Leave the room</Trans>
            </button>
          )}
          <Button type="submit" variant="outlined" disabled={!text.trim()}>
            <Trans>
              Send <span className="key">Enter</span>
            </Trans>
          </Button>
        </div>
      </form>
    </>
  );
}
