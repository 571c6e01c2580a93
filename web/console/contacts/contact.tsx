import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState, type ReactNode } from "react";
import { Link, useNavigate } from "react-router";

import { api, ask } from "../../shared/api";
import { clock, dayAndTime } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import type { BrowserView, ContactPage, ContactView } from "../../shared/types";
import { fileSize } from "../../shared/upload";
import { uuid } from "../../shared/uuid";
import { useMe, useTeam } from "../desk/provider";
import { BookingRecord } from "../forms/booking-record";
import { useEditing } from "../forms/editing";
import { useKept } from "../forms/kept";
import { SaveBar } from "../forms/parts";
import { PersonNotes } from "../forms/person-notes";
import { useSaving } from "../forms/saving";
import { basketMoney } from "../guests/basket-money";
import { sourceWords } from "../guests/words";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { PersonKept } from "../person/person";
import { TextInput } from "../kit/field";
import { say, sayTrouble } from "../kit/say";
import { Select } from "../kit/select";
import { LoadTrouble, Wrong } from "../kit/states";
import { TextField } from "../kit/text-field";
import { Merge } from "./merge";

const fresh: ContactView = {
  version: 0,
  name: "",
  email: "",
  phone: "",
  company: "",
  claimed: false,
  fields: {},
};

/** The page of one contact; "new" is one that is being added. */
export function ContactPane({ id }: { id: string }) {
  const isNew = id === "new";
  const page = useQuery({
    queryKey: ["contact", id],
    queryFn: () => ask(api.GET("/api/contacts/{id}", { params: { path: { id } } })),
    enabled: !isNew,
  });
  if (isNew)
    return (
      <section className="page" aria-label={t`New contact`}>
        <Fields kept={fresh} own={[]} id={id} />
      </section>
    );
  if (page.isError)
    return (
      <section className="page">
        <LoadTrouble error={page.error} again={() => void page.refetch()} />
      </section>
    );
  if (!page.data) return <section className="page" aria-busy="true" />;
  return <Whole id={id} page={page.data} />;
}

function Whole({ id, page }: { id: string; page: ContactPage }) {
  const { contact } = page;
  const navigate = useNavigate();
  return (
    <section className="page" aria-label={contact.name || t`Contact`}>
      <header>
        <h2>
          <bdi>{contact.name || contact.email || t`No name yet`}</bdi>
        </h2>
        <span className="meta">
          {[
            page.here ? t`on the site now` : "",
            page.siteId ? t`known by the site as ${page.siteId}` : "",
            page.owner ? t`looked after by ${page.owner}` : "",
          ]
            .filter(Boolean)
            .join(" · ")}
        </span>
      </header>
      <div className="columns">
        <div>
          <Fields kept={contact} own={page.fields} id={id} />
          <Letter id={id} page={page} />
          <Notes id={id} page={page} />
        </div>
        <div>
          <BookingRecord
            of={["contact", id, contact.email ?? ""]}
            ask={() => ask(api.GET("/api/contacts/{id}/record", { params: { path: { id } } }))}
            lastKnown={page.outside}
            frame={(children) => <Part title={t`Booking record`}>{children}</Part>}
          />
          <Chats page={page} />
          <Files page={page} />
          <Visits page={page} />
          <Browsers id={id} page={page} />
          <Merge id={id} contact={contact} />
          <PersonKept
            who={{ contactId: id }}
            name={contact.name || contact.email || t`this contact`}
            forgotten={() => void navigate("/contacts")}
          />
        </div>
      </div>
    </section>
  );
}

/** A part of a contact's page. */
export function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="part">
      <h3>{title}</h3>
      {children}
    </section>
  );
}

/** What is written down of a contact, to be changed. */
function Fields({ kept, own, id }: { kept: ContactView; own: ContactPage["fields"]; id: string }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const saving = useSaving();
  const operators = useTeam((s) => s.operators);
  const leads = useMe().role !== "operator";
  const editing = useEditing<ContactView>(`contact.${id}`, kept);
  const c = editing.value;
  const change = (part: Partial<ContactView>) => {
    editing.change(part);
    saving.clear();
  };
  const save = () =>
    void saving.run(
      async () => {
        const saved =
          id === "new"
            ? await ask(api.POST("/api/contacts", { body: c }))
            : await ask(api.PUT("/api/contacts/{id}", { params: { path: { id } }, body: c }));
        editing.saved(saved, `contact.${saved.id ?? "new"}`);
        await queries.invalidateQueries({ queryKey: ["contact", id] });
        void queries.invalidateQueries({ queryKey: ["contacts"] });
        if (id === "new") void navigate(`/contacts/${saved.id ?? ""}`);
      },
      t`Contact saved`,
    );
  const field = (name: "name" | "email" | "phone" | "company", label: string, most: number) => (
    <TextInput
      label={label}
      value={c[name]}
      change={(value) => change({ [name]: value })}
      wrong={saving.wrongAt(name)}
      most={most}
    />
  );
  return (
    <div className="editor bare">
      <div className="fields">
        {field("name", t`Name`, 80)}
        {field("email", t`Email`, 200)}
        {field("phone", t`Phone`, 40)}
        {field("company", t`Company`, 120)}
        {own.map((f) => (
          <TextInput
            key={f.name}
            label={f.label}
            value={c.fields[f.name] ?? ""}
            change={(value) => change({ fields: { ...c.fields, [f.name]: value } })}
            wrong={saving.wrongAt(`fields.${f.name}`)}
            type={f.kind === "date" ? "date" : "text"}
            most={500}
          />
        ))}
        {leads ? (
          <Select
            label={t`Looked after by`}
            value={c.ownerId ?? ""}
            change={(ownerId) => change({ ownerId })}
            wrong={saving.wrongAt("ownerId")}
            options={[
              { value: "", label: t`nobody in particular` },
              ...operators.map((o) => ({ value: o.id, label: o.name })),
            ]}
          />
        ) : null}
      </div>
      {editing.changed || id === "new" ? (
        <SaveBar
          saving={saving}
          editing={editing}
          save={save}
          theirWords={(theirs) => [theirs.name, theirs.email, theirs.phone, theirs.company].join(", ")}
        />
      ) : null}
    </div>
  );
}

/** Writes to somebody who is not here; what is typed is kept until it was sent. */
function Letter({ id, page }: { id: string; page: ContactPage }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [typed, setTyped] = useKept(`stoop.letter.${id}`);
  const [clientId, setClientId] = useState(uuid);
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState("");
  const here = useRef(true);
  useEffect(() => {
    here.current = true;
    return () => {
      here.current = false;
    };
  }, []);
  const text = typed ?? "";
  const write = (words: string) => {
    setTyped(words || null);
    setClientId(uuid()); // other words are another letter, even if the first went out unheard of
  };
  const send = () => {
    if (!text.trim() || busy) return;
    setBusy(true);
    setTrouble("");
    ask(api.POST("/api/contacts/{id}/letters", { params: { path: { id } }, body: { clientId, text } }))
      .then(
        () => {
          write("");
          say(t`Sent by email. The answer comes to your Desk.`, "success");
          void queries.invalidateQueries({ queryKey: ["contact", id] });
          if (here.current) void navigate("/desk"); // whoever went elsewhere stays there
        },
        (error: unknown) => setTrouble(wordsFor(error)),
      )
      .finally(() => setBusy(false));
  };
  return (
    <Part title={t`Write by email`}>
      {page.canWrite ? (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            send();
          }}
        >
          <TextField
            multiline
            minRows={3}
            maxRows={12}
            fullWidth
            value={text}
            placeholder={t`Your words. The answer joins a chat on your Desk.`}
            onChange={(e) => write(e.target.value)}
            disabled={busy}
            slotProps={{ htmlInput: { "aria-label": t`Letter to the contact`, dir: "auto" } }}
          />
          <Wrong words={trouble} />
          <Button
            type="submit"
            variant="outlined"
            disabled={busy || !text.trim()}
            startIcon={<Icons.Letter />}
          >
            <Trans>Send by email</Trans>
          </Button>
        </form>
      ) : (
        <p className="nothing">
          <Trans>No email is known of this contact.</Trans>
        </p>
      )}
    </Part>
  );
}

function Notes({ id, page }: { id: string; page: ContactPage }) {
  const queries = useQueryClient();
  return (
    <Part title={t`Notes`}>
      <PersonNotes
        notes={page.notes}
        keptAs={`stoop.contact-note.${id}`}
        add={(text) =>
          ask(api.POST("/api/contacts/{id}/notes", { params: { path: { id } }, body: { text } }))
        }
        again={() => queries.invalidateQueries({ queryKey: ["contact", id] })}
      />
    </Part>
  );
}

function Chats({ page }: { page: ContactPage }) {
  return (
    <Part title={t`Chats (${page.chats.length})`}>
      {page.chats.length === 0 ? (
        <p className="nothing">
          <Trans>None.</Trans>
        </p>
      ) : null}
      <ul className="earlier">
        {page.chats.map((c) => (
          <li key={c.id}>
            {c.readable ? (
              <Link to={`/transcripts/${c.id}`} dir="auto">
                {c.words || t`No messages`}
              </Link>
            ) : (
              <span>
                <Trans>Not yours to read</Trans>
              </span>
            )}
            <span className="meta">
              {[dayAndTime(c.startedAt), c.ownerName, c.outcome].filter(Boolean).join(" · ")}
            </span>
          </li>
        ))}
      </ul>
    </Part>
  );
}

function Files({ page }: { page: ContactPage }) {
  if (page.files.length === 0) return null;
  return (
    <Part title={t`Files (${page.files.length})`}>
      <ul className="earlier">
        {page.files.map((f) => (
          <li key={f.file.id}>
            <a href={f.file.url} target="_blank" rel="noopener noreferrer">
              <bdi>{f.file.name}</bdi>
            </a>
            <span className="meta">
              {fileSize(f.file.size)} · {f.byTeam ? t`from the team` : t`from them`} ·{" "}
              <Link to={`/transcripts/${f.chatId}`}>{dayAndTime(f.at)}</Link>
            </span>
          </li>
        ))}
      </ul>
    </Part>
  );
}

function Visits({ page }: { page: ContactPage }) {
  return (
    <Part title={t`Visits (${page.visits.length})`}>
      {page.visits.length === 0 ? (
        <p className="nothing">
          <Trans>None.</Trans>
        </p>
      ) : null}
      <ul className="earlier">
        {page.visits.map((v) => (
          <li key={v.id}>
            <span className="cut">
              {plural(v.pages, { one: "# page", other: "# pages" })}, {clock(v.attended)},{" "}
              {sourceWords(v.source)}
              {v.basket ? `, ${basketMoney(v.basket)}` : ""}
            </span>
            <span className="meta">{[dayAndTime(v.startedAt), v.place].filter(Boolean).join(" · ")}</span>
          </li>
        ))}
      </ul>
    </Part>
  );
}

/** The browsers that are theirs, those that are perhaps, and how to take some away. */
function Browsers({ id, page }: { id: string; page: ContactPage }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const again = () => queries.invalidateQueries({ queryKey: ["contact", id] });
  const join = (browser: string) => {
    ask(api.PUT("/api/contacts/{id}/browsers/{browser}", { params: { path: { id, browser } } })).then(
      again,
      sayTrouble,
    );
  };
  const split = () => {
    ask(
      api.POST("/api/contacts/{id}/split", { params: { path: { id } }, body: { browsers: [...chosen] } }),
    ).then(async (made) => {
      setChosen([]);
      await again();
      void queries.invalidateQueries({ queryKey: ["contacts"] });
      void navigate(`/contacts/${made.id ?? ""}`);
    }, sayTrouble);
  };
  return (
    <Part title={t`Browsers (${page.browsers.length})`}>
      <ul className="browsers">
        {page.browsers.map((b) => (
          <li key={b.id}>
            <label>
              <input
                type="checkbox"
                disabled={page.browsers.length < 2}
                checked={chosen.includes(b.id)}
                onChange={(e) =>
                  setChosen(e.target.checked ? [...chosen, b.id] : chosen.filter((one) => one !== b.id))
                }
              />{" "}
              {browserWords(b)}
            </label>
          </li>
        ))}
      </ul>
      {chosen.length > 0 ? (
        <Button variant="outlined" disabled={chosen.length === page.browsers.length} onClick={split}>
          {plural(chosen.length, {
            one: "Make another contact of this one",
            other: "Make another contact of these #",
          })}
        </Button>
      ) : null}
      {page.perhaps.length > 0 ? (
        <>
          <h4>
            <Trans>Perhaps the same person</Trans>
          </h4>
          <p className="nothing">
            <Trans>They gave the same email. Nobody has verified that.</Trans>
          </p>
          <ul className="browsers">
            {page.perhaps.map((b) => (
              <li key={b.id}>
                <span>{browserWords(b)}</span>
                <Button size="small" onClick={() => join(b.id)}>
                  <Trans>It is the same</Trans>
                </Button>
              </li>
            ))}
          </ul>
        </>
      ) : null}
    </Part>
  );
}

function browserWords(b: BrowserView): string {
  const since = dayAndTime(b.createdAt);
  return b.name ? t`${b.name}, since ${since}` : t`unnamed, since ${since}`;
}
