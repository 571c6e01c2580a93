import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useRef, useState } from "react";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import type { TicketView } from "../../shared/types";
import { uuid } from "../../shared/uuid";
import { useKept } from "../forms/kept";
import { Button } from "../kit/button";
import { Wrong } from "../kit/states";
import { useTicketMoved } from "./moved";

/** Where a ticket is answered, or something is noted. What is typed stays until it was stored. */
export function Answer({ ticket }: { ticket: TicketView }) {
  const moved = useTicketMoved();
  const [noting, setNoting] = useState(ticket.reaches === "nobody");
  const [answer, setAnswer, sentAnswer] = useKept(`stoop.ticket.answer.${ticket.id}`);
  const [note, setNote, sentNote] = useKept(`stoop.ticket.note.${ticket.id}`);
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState<string>();
  // The same words sent again, after an answer that got lost, are the same message.
  const sending = useRef<{ words: string; id: string }>(undefined);
  const words = (noting ? note : answer) ?? "";
  const type = (text: string) => {
    setTrouble(undefined);
    (noting ? setNote : setAnswer)(text || null);
  };
  const send = async (then?: "done") => {
    if (!words.trim() || busy) return;
    const key = `${noting} ${words}`;
    if (sending.current?.words !== key) sending.current = { words: key, id: uuid() };
    setBusy(true);
    setTrouble(undefined);
    const params = { path: { id: ticket.id } };
    const body = { clientId: sending.current.id, text: words };
    try {
      moved(
        noting
          ? await ask(api.POST("/api/tickets/{id}/notes", { params, body }))
          : await ask(
              api.POST("/api/tickets/{id}/words", { params, body: { ...body, ...(then ? { then } : {}) } }),
            ),
      );
      sending.current = undefined;
      (noting ? sentNote : sentAnswer)(words);
    } catch (error) {
      setTrouble(wordsFor(error));
    }
    setBusy(false);
  };
  const to = ticket.name || ticket.email || t`the customer`;
  return (
    <form
      className={noting ? "ticket-answer noting" : "ticket-answer"}
      onSubmit={(event) => {
        event.preventDefault();
        void send();
      }}
    >
      <div className="tabs" role="tablist">
        <button type="button" role="tab" aria-selected={!noting} onClick={() => setNoting(false)}>
          <Trans>Answer</Trans>
        </button>
        <button type="button" role="tab" aria-selected={noting} onClick={() => setNoting(true)}>
          <Trans>Note</Trans>
        </button>
        <span className="reach">{noting ? t`Only the team sees it` : whereTo(ticket)}</span>
      </div>
      <textarea
        value={words}
        rows={4}
        dir="auto"
        maxLength={10000}
        disabled={!noting && ticket.reaches === "nobody"}
        aria-label={noting ? t`Note on ticket ${ticket.number}` : t`Answer to ${to}`}
        placeholder={noting ? t`A note for the team` : t`Write to ${to}`}
        onChange={(e) => type(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter" && (e.ctrlKey || e.metaKey)) void send();
        }}
      />
      <Wrong words={trouble} />
      <div className="row acts">
        <Button type="submit" variant="contained" disabled={busy || !words.trim()}>
          {noting ? t`Save note` : t`Send`} <span className="key">Ctrl ⏎</span>
        </Button>
        {noting ? null : (
          <Button variant="outlined" disabled={busy || !words.trim()} onClick={() => void send("done")}>
            <Trans>Send, and done</Trans>
          </Button>
        )}
      </div>
    </form>
  );
}

/** Where the customer reads what is answered. */
function whereTo(ticket: TicketView): string {
  if (ticket.reaches === "mail") return t`By email to ${ticket.email ?? ""}`;
  if (ticket.reaches === "panel") return t`No email: they read it in the chat window, when they come back`;
  return t`There is no way to reach the customer. Add an email on the right.`;
}
