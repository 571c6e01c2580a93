import "./later.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, type ReactNode } from "react";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import { emptyLog } from "../../shared/log";
import { ProblemError, wordsFor, wrongFields } from "../../shared/problem";
import { keep, keepJSON, keptJSON } from "../../shared/storage";
import type { AboutView, ChatView, ContactView } from "../../shared/types";
import { Basket } from "../guests/basket";
import { BookingRecord } from "../forms/booking-record";
import { PersonNotes } from "../forms/person-notes";
import { Icons } from "../icons";
import { Button, IconButton } from "../kit/button";
import { TicketsOfChat } from "../tickets/of-chat";
import { useAbout } from "./about-query";
import { Outcome, Summary } from "./outcome";
import { useDeskStore, useIsMine, usePlaces, useScripts } from "./provider";
import { whyHere } from "./reasons";
import { Tags } from "./tags";

/** What is known of the person in the lane in use, and what the team puts down about the chat. */
export function About({ chat, number, onClose }: { chat: ChatView; number: number; onClose: () => void }) {
  const store = useDeskStore();
  const log = useScripts((s) => s.logs.get(chat.id)) ?? emptyLog;
  const mine = useIsMine(chat);
  const about = useAbout(chat);
  const data = about.data;
  const place = usePlaces((s) => s.places.get(chat.visitorId));
  // The foot of an ended chat asks for these; twice would be once too often.
  const inWrapUp = chat.phase === "ended" && chat.ending === "answered" && mine;
  const answers = Object.entries(chat.answers ?? {});
  const told = (chat.helper?.answers ?? []).map((a) => [a.label, a.value] as [string, string]);
  return (
    <aside className="about" aria-label={t`About ${chat.name || t`the visitor`}`}>
      <header>
        <h2>
          <Trans>About</Trans>
        </h2>
        {number > 0 ? <span className="plate on">{number}</span> : null}
        <span className="cut">
          <Trans>selected lane</Trans>
        </span>
        <IconButton size="small" aria-label={t`Hide About`} onClick={onClose}>
          <Icons.Close />
        </IconButton>
      </header>
      {about.isError ? (
        <div className="trouble" role="alert">
          <p>{wordsFor(about.error)}</p>
          <Button variant="outlined" onClick={() => void about.refetch()}>
            <Trans>Try again</Trans>
          </Button>
        </div>
      ) : null}
      {data ? (
        <Contact key={chat.id} chat={chat} about={data} />
      ) : (
        <section aria-busy="true" className="waiting-for" />
      )}
      {data ? (
        <BookingRecord
          of={["chat", chat.id, data.contact.email ?? ""]}
          ask={() => ask(api.GET("/api/chats/{id}/record", { params: { path: { id: chat.id } } }))}
          add={() => ask(api.POST("/api/chats/{id}/record", { params: { path: { id: chat.id } } }))}
          lastKnown={data.outside}
          frame={(children) => <Part title={t`Booking record`}>{children}</Part>}
        />
      ) : null}
      {place?.basket ? <Basket basket={place.basket} /> : null}
      {told.length > 0 ? (
        <Part title={t`Told the helper`}>
          <Facts list={told} />
        </Part>
      ) : null}
      {answers.length > 0 ? (
        <Part title={t`Answers from the form`}>
          <Facts list={answers} />
        </Part>
      ) : null}
      {inWrapUp ? null : (
        <>
          <Part title={t`Tags`}>
            <Tags chat={chat} />
          </Part>
          <Part title={t`Summary`}>
            <Summary key={chat.id} chat={chat} />
          </Part>
          <Part title={t`Outcome`}>
            <Outcome key={chat.id} chat={chat} />
          </Part>
        </>
      )}
      {data ? (
        <Notes key={`notes-${chat.id}`} chat={chat} about={data} />
      ) : (
        <section aria-busy="true" className="waiting-for further" />
      )}
      {data ? (
        <Part title={data.earlier.length > 0 ? t`Earlier chats (${data.earlier.length})` : t`Earlier chats`}>
          {data.earlier.length === 0 ? (
            <p className="nothing">
              <Trans>None.</Trans>
            </p>
          ) : null}
          <ul className="earlier">
            {data.earlier.map((e) => (
              <li key={e.id}>
                <button
                  className="link"
                  dir="auto"
                  onClick={() => store.screen.readBeside({ id: e.id, of: chat.id })}
                >
                  {e.words || t`No messages`}
                </button>
                <span className="meta">
                  {dayAndTime(e.startedAt)}
                  {e.outcome ? ` · ${e.outcome}` : e.ending === "missed" ? ` · ${t`missed`}` : ""}
                </span>
              </li>
            ))}
          </ul>
        </Part>
      ) : null}
      <Part title={t`Tickets`}>
        <TicketsOfChat key={chat.id} chatId={chat.id} />
      </Part>
      <Part title={t`Why here`}>
        <p className="why">{whyHere(log.events).join(" ") || chat.departmentName}</p>
      </Part>
      {data ? <Technical about={data} /> : null}
    </aside>
  );
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section>
      <h3>{title}</h3>
      {children}
    </section>
  );
}

function Facts({ list }: { list: [string, string][] }) {
  return (
    <dl>
      {list.map(([name, value]) => (
        <div key={name}>
          <dt>{name}</dt>
          <dd dir="auto">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

type Field = { name: keyof ContactView | string; label: string; own?: boolean };

const fixed: Field[] = [
  { name: "name", label: t`Name` },
  { name: "email", label: t`Email` },
  { name: "phone", label: t`Phone` },
  { name: "company", label: t`Company` },
];

function valueOf(contact: ContactView, field: Field): string {
  return field.own ? (contact.fields[field.name] ?? "") : String(contact[field.name as "name"] ?? "");
}

function withValue(contact: ContactView, field: Field, value: string): ContactView {
  return field.own
    ? { ...contact, fields: { ...contact.fields, [field.name]: value } }
    : { ...contact, [field.name]: value };
}

/**
 * The contact, edited in place. When a colleague changed it meanwhile, what they
 * wrote stands beside what was typed here, field by field; nothing is lost.
 */
function Contact({ chat, about }: { chat: ChatView; about: AboutView }) {
  const queries = useQueryClient();
  const keptAs = `stoop.desk.contact.${chat.id}`;
  const theirsAs = `stoop.desk.contact-theirs.${chat.id}`;
  const [typed, setTyped] = useState(() => keptJSON<ContactView | undefined>(keptAs, undefined));
  const [theirs, setTheirs] = useState(() => keptJSON<ContactView | undefined>(theirsAs, undefined));
  // Turning to another lane, or a reload, loses nothing of it.
  useEffect(() => {
    if (typed) keepJSON(keptAs, typed);
    else keep(keptAs, null);
    // Nor that a colleague was faster: unseen, their words would be overwritten.
    if (typed && theirs) keepJSON(theirsAs, theirs);
    else keep(theirsAs, null);
  }, [typed, keptAs, theirs, theirsAs]);
  const [begun, setBegun] = useState(false); // here and now, not before a turn to another lane
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const fields: Field[] = [...fixed, ...about.fields.map((f) => ({ ...f, own: true }))];
  const shown = about.contact;

  const save = () => {
    if (!typed) return;
    setBusy(true);
    setTrouble("");
    setWrong({});
    ask(api.PUT("/api/chats/{id}/contact", { params: { path: { id: chat.id } }, body: typed }))
      .then(async () => {
        await queries.invalidateQueries({ queryKey: ["about", chat.id] });
        setTyped(undefined);
        setTheirs(undefined);
      })
      .catch((error: unknown) => {
        const problem = error instanceof ProblemError ? error.problem : undefined;
        if (problem?.contact) {
          const now = problem.contact;
          setTheirs(now);
          setTyped((t) => (t ? { ...t, id: now.id, version: now.version } : t));
        } else if (problem?.fields) {
          setWrong(wrongFields(problem));
        } else {
          setTrouble(wordsFor(error));
        }
      })
      .finally(() => setBusy(false));
  };

  if (!typed) {
    const known = fields.filter((f) => valueOf(shown, f) !== "" && f.name !== "name");
    return (
      <section className="contact">
        <div className="row">
          <b className="cut">
            <bdi>{shown.name || t`No name yet`}</bdi>
          </b>
          <IconButton
            size="small"
            aria-label={t`Edit the contact`}
            onClick={() => {
              setBegun(true);
              setTyped({ ...shown });
            }}
          >
            <Icons.Pencil />
          </IconButton>
        </div>
        {shown.claimed ? (
          <p className="claimed">
            <Trans>email not verified</Trans>
          </p>
        ) : null}
        {known.length > 0 ? (
          <Facts list={known.map((f) => [f.label, valueOf(shown, f)])} />
        ) : (
          <p className="nothing">
            <Trans>No email or phone yet. Add what the visitor tells you.</Trans>
          </p>
        )}
      </section>
    );
  }
  return (
    <section className="contact">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          save();
        }}
        onKeyDown={(e) => {
          if (e.key === "Escape" && !busy) setTyped(undefined);
        }}
      >
        {theirs ? (
          <p className="conflict" role="alert">
            <Icons.Warning />{" "}
            <Trans>
              A colleague changed this in the meantime. Where it differs, both are shown; save to keep yours.
            </Trans>
          </p>
        ) : null}
        {fields.map((f, i) => {
          const mine = valueOf(typed, f);
          const other = theirs ? valueOf(theirs, f) : mine;
          return (
            <label key={f.name}>
              <span>{f.label}</span>
              <input
                autoFocus={begun && i === 0}
                dir="auto"
                value={mine}
                maxLength={500}
                aria-invalid={wrong[f.name] !== undefined}
                onChange={(e) => setTyped(withValue(typed, f, e.target.value))}
              />
              {wrong[f.name] ? <span className="wrong">{wrong[f.name]}</span> : null}
              {other !== mine ? (
                <span className="theirs">
                  <Trans>
                    Theirs: <b>{other || t`empty`}</b>
                  </Trans>
                  <button type="button" className="link" onClick={() => setTyped(withValue(typed, f, other))}>
                    <Trans>Use theirs</Trans>
                  </button>
                </span>
              ) : null}
            </label>
          );
        })}
        {trouble ? (
          <p className="wrong" role="alert">
            {trouble}
          </p>
        ) : null}
        <div className="row acts">
          <Button type="submit" variant="outlined" disabled={busy}>
            <Trans>Save contact</Trans>
          </Button>
          <Button
            onClick={() => {
              setTyped(undefined);
              setTheirs(undefined);
            }}
          >
            <Trans>Cancel</Trans>
          </Button>
        </div>
      </form>
    </section>
  );
}

/** What the team noted about the person, not only about this chat. */
function Notes({ chat, about }: { chat: ChatView; about: AboutView }) {
  const queries = useQueryClient();
  return (
    <Part title={t`Notes about the person`}>
      <PersonNotes
        notes={about.notes}
        keptAs={`stoop.desk.person-note.${chat.id}`}
        add={(text) =>
          ask(
            api.POST("/api/chats/{id}/contact/notes", { params: { path: { id: chat.id } }, body: { text } }),
          )
        }
        again={() => queries.invalidateQueries({ queryKey: ["about", chat.id] })}
      />
    </Part>
  );
}

function Technical({ about }: { about: AboutView }) {
  const parts = [
    about.browser,
    about.device,
    about.language,
    about.address,
    about.visits > 1 ? t`visit ${about.visits}` : t`first visit`,
    about.referrer ? t`from ${hostOf(about.referrer)}` : "",
  ].filter(Boolean);
  return (
    <section className="technical">
      <h3>
        <Trans>Browser and visit</Trans>
      </h3>
      <p>{parts.join(" · ")}</p>
    </section>
  );
}

function hostOf(address: string): string {
  try {
    return new URL(address).host;
  } catch {
    return address;
  }
}
