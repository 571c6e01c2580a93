import { useState, type FormEvent } from "react";

import { characters } from "../../shared/format";
import { keepJSON, keptJSON } from "../../shared/storage";
import { Counter } from "./counter";
import { startKey, type PanelState, type PanelStore, type StartDraft } from "./store";
import { texts } from "./texts";

/** Asks for the question, and lightly for name and email. What is typed survives a reload. */
export function StartForm({ store, state }: { store: PanelStore; state: PanelState }) {
  const widget = state.widget;
  const keptAs = startKey(widget?.key ?? "");
  const [draft, setDraft] = useState<StartDraft>(() =>
    keptJSON(keptAs, { name: state.name, email: state.email, text: "" }),
  );
  const [wrong, setWrong] = useState<{ field: "text" | "email"; words: string } | null>(null);
  const limit = widget?.messageLimit ?? 0;

  const change = (part: Partial<StartDraft>) => {
    const next = { ...draft, ...part };
    setDraft(next);
    keepJSON(keptAs, next);
    setWrong(null);
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const email = draft.email.trim();
    if (!draft.text.trim()) {
      setWrong({ field: "text", words: texts.start.empty });
    } else if (email && !/^[^\s@]+@[^\s@]+\.[^\s@]+$/.test(email)) {
      setWrong({ field: "email", words: texts.start.badEmail });
    } else if (characters(draft.text.trim()) <= limit) {
      store.open(draft.text.trim(), draft.name.trim(), email);
      keepJSON(keptAs, { ...draft, text: "" });
      return;
    }
    (event.currentTarget as HTMLFormElement)
      .querySelector<HTMLElement>(`[name=${wrong?.field ?? "text"}]`)
      ?.focus();
  };

  return (
    <form className="start" onSubmit={submit} noValidate>
      {widget && widget.in.length === 0 ? <p className="note">{texts.nobodyIn}</p> : null}
      <label>
        <span>
          {texts.start.name} <i>{texts.start.optional}</i>
        </span>
        <input
          name="name"
          autoComplete="name"
          maxLength={80}
          value={draft.name}
          onInput={(e) => change({ name: e.currentTarget.value })}
        />
      </label>
      <label>
        <span>
          {texts.start.email} <i>{texts.start.optional}</i>
        </span>
        <input
          name="email"
          type="email"
          autoComplete="email"
          maxLength={254}
          value={draft.email}
          aria-invalid={wrong?.field === "email"}
          aria-describedby="wrong"
          onInput={(e) => change({ email: e.currentTarget.value })}
        />
      </label>
      <label className="grow">
        <span>{texts.start.question}</span>
        <textarea
          name="text"
          data-first
          rows={4}
          value={draft.text}
          aria-invalid={wrong?.field === "text"}
          aria-describedby="wrong"
          onInput={(e) => change({ text: e.currentTarget.value })}
        />
      </label>
      <Counter text={draft.text} limit={limit} />
      <p className="wrong" id="wrong" role="alert">
        {wrong?.words ?? ""}
      </p>
      <button className="go" type="submit">
        {texts.start.send}
      </button>
    </form>
  );
}
