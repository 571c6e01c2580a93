import { t } from "@lingui/core/macro";
import { useEffect, useRef, useState, type FormEvent } from "react";

import { wordsFor, ProblemError, wrongFields } from "../../../shared/problem";
import { locale } from "../../../shared/speak";
import { keep, kept, keepJSON, keptJSON } from "../../../shared/storage";
import type { CallTimes, OwnTicket } from "../../../shared/types";
import { uuid } from "../../../shared/uuid";
import { ask } from "../ask";
import type { PanelStore } from "../store";
import { wishedKey } from "./wished";

interface Props {
  store: PanelStore;
  back: () => void;
}

const nothing = { name: "", phone: "", about: "", at: "" };

/** Asks when and where a visitor wants to be called. What is typed stays until it was taken. */
export default function CallBack({ store, back }: Props) {
  const path = `/widget/${encodeURIComponent(store.key)}`;
  const draftKey = `stoop.${store.key}.call`;
  const [draft, setDraft] = useState(() => ({
    ...nothing,
    name: store.state.name,
    ...keptJSON<Partial<typeof nothing>>(draftKey, {}),
  }));
  const [times, setTimes] = useState<CallTimes>();
  const [made, setMade] = useState<OwnTicket>();
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  // Sent again after an answer that got lost, it is the same wish.
  const [clientId] = useState(uuid);
  const first = useRef<HTMLInputElement>(null);
  useEffect(() => first.current?.focus(), []); // the visitor asked for it
  useEffect(() => {
    let here = true;
    ask<CallTimes>(`${path}/call-times`, { token: kept(store.tokenKey) ?? "" }).then(
      (found) => here && setTimes(found),
      (error: unknown) => here && setTrouble(wordsFor(error)),
    );
    return () => {
      here = false;
    };
  }, [path, store]);
  const type = (part: Partial<typeof nothing>) => {
    const next = { ...draft, ...part };
    setDraft(next);
    setWrong({});
    setTrouble("");
    keepJSON(draftKey, next);
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (busy) return;
    setBusy(true);
    setTrouble("");
    const { at, ...told } = draft;
    ask<OwnTicket[]>(`${path}/calls`, {
      token: kept(store.tokenKey) ?? "",
      language: store.state.widget?.language ?? "",
      clientId,
      ...told,
      ...(at ? { at } : {}),
    }).then(
      (all) => {
        keep(draftKey, null);
        keep(wishedKey(store.key), "1");
        setMade(all[0]);
      },
      (error: unknown) => {
        setBusy(false);
        const fields = error instanceof ProblemError ? wrongFields(error.problem) : {};
        setWrong(fields);
        setTrouble(Object.keys(fields).length > 0 ? "" : wordsFor(error));
      },
    );
  };
  if (made) {
    return (
      <div className="front" role="status">
        <p className="note">
          <b>{t({ id: "call.well", message: `We will call you.` })}</b>{" "}
          {made.callSoon
            ? t({ id: "call.soon", message: `As soon as possible` })
            : made.callAt
              ? whenCalled(made.callAt, times?.zone)
              : ""}
        </p>
        <p>{t({ id: "call.number", message: `The number of your request is ${made.number}.` })}</p>
        <button className="go" data-first onClick={back}>
          {t({ id: "call.done", message: `All right` })}
        </button>
      </div>
    );
  }
  return (
    <form className="start" onSubmit={submit} noValidate>
      <b>{t({ id: "call.title", message: `Have us call you` })}</b>
      <label>
        {t({ id: "call.phone", message: `Phone number` })}
        <input
          ref={first}
          type="tel"
          autoComplete="tel"
          required
          maxLength={40}
          value={draft.phone}
          aria-invalid={wrong.phone !== undefined}
          onInput={(e) => type({ phone: e.currentTarget.value })}
        />
        {wrong.phone ? <span className="wrong">{wrong.phone}</span> : null}
      </label>
      <label>
        {t({ id: "call.when", message: `When` })}
        <select value={draft.at} onChange={(e) => type({ at: e.currentTarget.value })}>
          <option value="">
            {!times || times.open
              ? t({ id: "call.soon", message: `As soon as possible` })
              : t({ id: "call.first", message: `As soon as we are open` })}
          </option>
          {(times?.times ?? []).map((at) => (
            <option key={at} value={at}>
              {whenCalled(at)}
            </option>
          ))}
        </select>
        {wrong.at ? <span className="wrong">{wrong.at}</span> : null}
      </label>
      <label>
        {t({ id: "call.name", message: `Your name` })}
        <input
          autoComplete="name"
          maxLength={120}
          value={draft.name}
          onInput={(e) => type({ name: e.currentTarget.value })}
        />
      </label>
      <label>
        {t({ id: "call.about", message: `What is it about?` })}
        <textarea
          rows={3}
          maxLength={2000}
          value={draft.about}
          onInput={(e) => type({ about: e.currentTarget.value })}
        />
      </label>
      {trouble ? (
        <p className="wrong" role="alert">
          {trouble}
        </p>
      ) : null}
      <button className="go" disabled={busy || !draft.phone.trim()}>
        {t({ id: "call.ask", message: `Ask for the call` })}
      </button>
      <button className="plain" type="button" onClick={back}>
        {t({ id: "call.back", message: `Back` })}
      </button>
    </form>
  );
}

/** Day and time in the visitor's own zone, which is named where the team's is another. */
export function whenCalled(at: string, zone?: string): string {
  const own = Intl.DateTimeFormat().resolvedOptions().timeZone;
  return new Intl.DateTimeFormat(locale(), {
    weekday: "long",
    day: "numeric",
    month: "long",
    hour: "2-digit",
    minute: "2-digit",
    ...(zone && zone !== own ? { timeZoneName: "short" as const } : {}),
  }).format(new Date(at));
}
