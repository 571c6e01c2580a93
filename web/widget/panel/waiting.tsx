import { useEffect, useState, type FormEvent } from "react";

import { aboutMinutes, clock } from "../../shared/format";
import { ProblemError, wrongFields } from "../../shared/problem";
import { Field, missing } from "./field";
import { messageFields, trimmed, valueOf, withValue } from "./start-form";
import type { StartDraft } from "./drafts";
import type { PanelState } from "./state";
import type { PanelStore } from "./store";
import { talkTexts } from "./talk-texts";
import { texts } from "./texts";

/** What a visitor sees who waits: their place, how long it takes, and the way out. */
export function Waiting({ store, state, since }: { store: PanelStore; state: PanelState; since: string }) {
  const [now, setNow] = useState(() => store.now());
  const [leaving, setLeaving] = useState(false);
  useEffect(() => {
    const timer = setInterval(() => setNow(store.now()), 1000);
    return () => clearInterval(timer);
  }, [store]);
  const wait = state.chat?.wait;
  const closed = state.widget?.now.state === "closed";
  return (
    <div className="waiting">
      <p>{closed ? talkTexts.waitingNobody : talkTexts.waiting}</p>
      {wait && wait.place > 0 && !closed ? (
        <p className="place" role="status">
          <b>{talkTexts.place(wait.place)}</b>{" "}
          {wait.known ? talkTexts.estimate(aboutMinutes(wait.estimateSeconds)) : ""}
        </p>
      ) : null}
      <p className="hint" aria-hidden="true">
        {talkTexts.waitingFor} <b>{clock(now - Date.parse(since))}</b>.{" "}
        {store.lasts ? talkTexts.stay : talkTexts.stayHere}
      </p>
      {leaving ? (
        <LeaveInstead store={store} state={state} onBack={() => setLeaving(false)} />
      ) : (
        <button className="plain" onClick={() => setLeaving(true)}>
          {talkTexts.message.instead}
        </button>
      )}
    </div>
  );
}

interface LeaveProps {
  store: PanelStore;
  state: PanelState;
  onBack: () => void;
}

/** Lets a waiting visitor leave a way to answer them instead of waiting on. */
function LeaveInstead({ store, state, onBack }: LeaveProps) {
  const { widget } = state;
  const [draft, setDraft] = useState<StartDraft>({ name: state.name, email: state.email, text: "" });
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const [busy, setBusy] = useState(false);
  if (!widget) return null;
  const fields = messageFields(widget).filter((f) => f.name !== "name" || !state.name);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const found: Record<string, string> = {};
    for (const field of fields) {
      const words = missing(field, valueOf(draft, field));
      if (words) found[field.name] = words;
    }
    setWrong(found);
    if (Object.keys(found).length > 0) return;
    setBusy(true);
    store
      .leaveInstead(trimmed(draft))
      .catch((error: unknown) => {
        if (error instanceof ProblemError && error.problem.fields) setWrong(wrongFields(error.problem));
        else setWrong({ text: texts.lost });
      })
      .finally(() => setBusy(false));
  };
  return (
    <form className="instead" onSubmit={submit} noValidate>
      {fields.map((field) => (
        <Field
          key={field.name}
          field={field}
          value={valueOf(draft, field)}
          wrong={wrong[field.name]}
          change={(value) => setDraft({ ...draft, ...withValue(draft, field, value) })}
        />
      ))}
      <p className="wrong" role="alert">
        {wrong.text ?? ""}
      </p>
      <button className="go" type="submit" disabled={busy}>
        {texts.message.send}
      </button>
      <button className="plain" type="button" onClick={onBack}>
        {talkTexts.message.back}
      </button>
    </form>
  );
}
