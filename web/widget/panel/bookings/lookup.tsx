import { msg } from "@lingui/core/macro";
import { useEffect, useRef, useState, type FormEvent } from "react";

import { wordsFor } from "../../../shared/problem";
import { say } from "../../../shared/speak";
import { kept } from "../../../shared/storage";
import type { CardView } from "../../../shared/types";
import { ask } from "../ask";
import type { PanelStore } from "../store";
import Card from "./card";

interface Props {
  store: PanelStore;
  look: (looking: boolean) => void;
}

/** Looks up a booking of the visitor's own by its number and the name that it is in. */
export default function Lookup({ store, look: show }: Props) {
  const [number, setNumber] = useState("");
  const [name, setName] = useState("");
  const [found, setFound] = useState<CardView>();
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const asked = useRef(0);
  const first = useRef<HTMLInputElement>(null);
  useEffect(() => first.current?.focus(), []); // the visitor asked for it
  const changed = (set: (value: string) => void) => (value: string) => {
    asked.current++; // an answer to what was typed before is none to this
    set(value);
    setFound(undefined);
    setTrouble("");
    setBusy(false);
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (busy) return;
    if (!number.trim() || !name.trim()) {
      setTrouble(
        say(msg({ id: "booking.both", message: `Enter both, as they stand in your confirmation.` })),
      );
      return;
    }
    const mine = ++asked.current;
    setBusy(true);
    setTrouble("");
    ask<CardView>(`/widget/${encodeURIComponent(store.key)}/lookup`, {
      token: kept(store.tokenKey) ?? "",
      number,
      name,
    })
      .then(
        (card) => mine === asked.current && setFound(card),
        (error: unknown) => mine === asked.current && setTrouble(wordsFor(error)),
      )
      .finally(() => mine === asked.current && setBusy(false));
  };
  return (
    <form className="start" onSubmit={submit} noValidate>
      <b>{say(msg({ id: "booking.title", message: `Look up your booking` }))}</b>
      <label>
        <span>{say(msg({ id: "booking.number", message: `Booking number` }))}</span>
        <input
          value={number}
          ref={first}
          maxLength={40}
          onInput={(e) => changed(setNumber)(e.currentTarget.value)}
        />
      </label>
      <label>
        <span>{say(msg({ id: "booking.name", message: `Family name` }))}</span>
        <input
          value={name}
          autoComplete="family-name"
          maxLength={80}
          onInput={(e) => changed(setName)(e.currentTarget.value)}
        />
      </label>
      <p className="wrong" role="alert">
        {trouble}
      </p>
      {found ? <Card card={found} takes={false} inBasket={false} use={() => Promise.resolve()} /> : null}
      <button className="go" disabled={busy}>
        {say(msg({ id: "booking.find", message: `Find it` }))}
      </button>
      <button className="plain" type="button" onClick={() => show(false)}>
        {say(msg({ id: "booking.back", message: `Back` }))}
      </button>
    </form>
  );
}
