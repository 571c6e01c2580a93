import { t } from "@lingui/core/macro";
import { useCallback, useEffect, useRef, useState, type FormEvent } from "react";

import { wordsFor } from "../../../shared/problem";
import { locale } from "../../../shared/speak";
import { keep, kept } from "../../../shared/storage";
import type { OwnTicket } from "../../../shared/types";
import { uuid } from "../../../shared/uuid";
import { ask } from "../ask";
import { whenCalled } from "../calls/call-back";
import type { PanelStore } from "../store";
import looks from "./tickets.css?inline";

// A style sheet that comes by itself would cost every panel the code that fetches it.
const sheet = new CSSStyleSheet();
sheet.replaceSync(looks);
document.adoptedStyleSheets.push(sheet);

// How often it is looked for answers while the panel is in view, in milliseconds.
const lookEvery = 20_000;

/** The number that a link in a mail leads to. */
const linked = Number(new URLSearchParams(location.search).get("ticket"));

/** What the team still does for the visitor: to be read and answered here. */
export default function Tickets({ store }: { store: PanelStore }) {
  const [list, setList] = useState<OwnTicket[]>([]);
  const [open, setOpen] = useState<string>();
  const [trouble, setTrouble] = useState("");
  const asked = useRef(0);
  const to = useCallback(
    async (path: string, more: object = {}) => {
      // An answer that comes after a later question's is old.
      const mine = ++asked.current;
      const all = await ask<OwnTicket[]>(`/widget/${encodeURIComponent(store.key)}/tickets${path}`, {
        token: kept(store.tokenKey) ?? "",
        ...more,
      });
      if (mine === asked.current) setList(all);
    },
    [store],
  );
  useEffect(() => {
    const look = () => {
      if (document.hidden) return;
      to("").then(
        () => setTrouble(""),
        (error: unknown) => setTrouble(wordsFor(error)),
      );
    };
    look();
    const timer = setInterval(look, lookEvery);
    return () => clearInterval(timer);
  }, [to]);
  const shown = open ?? list.find((one) => one.number === linked)?.id;
  if (list.length === 0) return trouble ? <p className="tickets-strip wrong">{trouble}</p> : null;
  return (
    <div className="tickets-strip">
      {list.map((one) => (
        <section key={one.id}>
          <button
            className="head"
            aria-expanded={shown === one.id}
            onClick={() => setOpen(shown === one.id ? "" : one.id)}
          >
            <b dir="auto">
              {one.number}: {one.title}
            </b>
            <span>{one.callAt ? callWords(one, one.callAt) : standing(one)}</span>
          </button>
          {shown === one.id ? (
            <Shown one={one} draftKey={`stoop.${store.key}.ticket.${one.id}`} to={to} />
          ) : null}
        </section>
      ))}
    </div>
  );
}

interface ShownProps {
  one: OwnTicket;
  draftKey: string;
  to: (path: string, more: object) => Promise<void>;
}

function Shown({ one, draftKey, to }: ShownProps) {
  const [words, setWords] = useState(() => kept(draftKey) ?? "");
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  // The same words sent again, after an answer that got lost, are the same message.
  const sending = useRef({ words: "", clientId: "" });
  const end = useRef<HTMLLIElement>(null);
  const type = (text: string) => {
    setWords(text);
    keep(draftKey, text || null);
  };
  useEffect(() => end.current?.scrollIntoView({ block: "nearest" }), [one.said.length]);
  const send = async (event: FormEvent) => {
    event.preventDefault();
    const text = words.trim();
    if (!text || busy) return;
    if (sending.current.words !== text) sending.current = { words: text, clientId: uuid() };
    setBusy(true);
    setTrouble("");
    try {
      await to(`/${one.id}/answer`, { text, clientId: sending.current.clientId });
      type("");
    } catch (error) {
      setTrouble(wordsFor(error));
    }
    setBusy(false);
  };
  const callOff = async () => {
    setBusy(true);
    setTrouble("");
    try {
      await to(`/${one.id}/call-off`, {});
    } catch (error) {
      setTrouble(wordsFor(error));
    }
    setBusy(false);
  };
  return (
    <>
      <ul>
        {one.said.map((line) => (
          <li key={line.number} ref={line.number === one.said.length ? end : undefined}>
            <span className="by">
              {line.mine ? t({ id: "ticket.you", message: `You` }) : line.name}
              {" · "}
              {whenSaid(line.at)}
            </span>
            <p dir="auto">{line.text}</p>
          </li>
        ))}
      </ul>
      {one.callAt ? (
        <p className="acts">
          <button className="plain" type="button" disabled={busy} onClick={() => void callOff()}>
            {t({ id: "ticket.callOff", message: `No call, please` })}
          </button>
        </p>
      ) : null}
      <form onSubmit={(event) => void send(event)}>
        <textarea
          rows={2}
          maxLength={10000}
          value={words}
          aria-label={t({ id: "ticket.answer", message: `Answer on number ${one.number}` })}
          placeholder={t({ id: "ticket.write", message: `Is there something to add?` })}
          onChange={(event) => type(event.target.value)}
        />
        {trouble ? <p className="wrong">{trouble}</p> : null}
        <button className="go" disabled={busy || !words.trim()}>
          {t({ id: "ticket.send", message: `Send` })}
        </button>
      </form>
    </>
  );
}

/** Day and time, in the visitor's own zone. */
function whenSaid(at: string): string {
  return new Date(at).toLocaleString(locale(), { dateStyle: "medium", timeStyle: "short" });
}

/** When the team calls. */
function callWords(one: OwnTicket, at: string): string {
  if (one.callSoon) return t({ id: "ticket.callSoon", message: `We call you as soon as we can` });
  const when = whenCalled(at);
  return t({ id: "ticket.call", message: `We call you ${when}` });
}

/** How it stands, in words for a customer. */
function standing(one: OwnTicket): string {
  if (one.status === "done") return t({ id: "ticket.done", message: `Done` });
  if (one.status === "customer") return t({ id: "ticket.answered", message: `We have answered` });
  return t({ id: "ticket.working", message: `We are working on it` });
}
