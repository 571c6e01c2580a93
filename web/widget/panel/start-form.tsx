import { useEffect, useRef, useState, type FormEvent } from "react";

import { characters, whenNext } from "../../shared/format";
import { keepJSON, keptJSON } from "../../shared/storage";
import type { FieldView, WidgetView } from "../../shared/types";
import { asked as askedWith } from "./asked";
import { Counter } from "./counter";
import { Field, missing } from "./field";
import { startKey, type StartDraft } from "./drafts";
import type { PanelState } from "./state";
import type { PanelStore } from "./store";
import { texts } from "./texts";

interface Props {
  store: PanelStore;
  state: PanelState;
  /** Nobody can answer now: what is written is kept as a message. */
  message: boolean;
  /** Shows where the visitor looks up a booking. */
  look: (looking: boolean) => void;
}

/** Asks for the question and for what the widget wants to know. What is typed survives a reload. */
export function StartForm({ store, state, message, look }: Props) {
  const { widget } = state;
  const keptAs = startKey(widget?.key ?? "");
  const [draft, setDraft] = useState<StartDraft>(() =>
    keptJSON(keptAs, { name: state.name, email: state.email, text: "" }),
  );
  const [wrong, setWrong] = useState<Record<string, string>>(state.wrong);
  const [all, setAll] = useState(false);
  const form = useRef<HTMLFormElement>(null);
  // What reads patterns is large: it comes while the form is filled in, and if it does
  // not, the server's word comes after.
  const fits = useRef<(pattern: string, answer: string) => boolean>(() => true);
  const patterned = widget?.form.some((f) => f.pattern) === true;
  useEffect(() => {
    if (!patterned) return;
    import("../../shared/patterns").then(
      ({ matches }) => (fits.current = matches),
      () => undefined,
    );
  }, [patterned]);
  if (!widget) return null;
  const opensAt = state.mustLeave ? state.mustLeave.opensAt : widget.now.opensAt;
  const limit = widget.messageLimit;
  const invitation = message ? undefined : state.invitation;
  const asked = askedFields(widget, draft, all ? [] : state.known);
  const fields = message
    ? messageFields(widget)
    : invitation
      ? asked.filter((f) => f.kind === "consent" && f.required)
      : asked;
  const knownAs = [draft.name, draft.email].filter(Boolean).join(", ");

  const change = (part: Partial<StartDraft>) => {
    const next = { ...draft, ...part };
    setDraft(next);
    keepJSON(keptAs, next);
    setWrong({});
    store.connect(); // so that the question is on its way as soon as it is asked
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    const found: Record<string, string> = {};
    for (const field of fields) {
      const value = valueOf(draft, field).trim();
      const words =
        missing(field, value) ??
        (value && field.pattern && !fits.current(field.pattern, value)
          ? field.error || texts.start.pattern
          : undefined);
      if (words) found[field.name] = words;
    }
    if (!draft.text.trim()) found.text = texts.start.empty;
    const first = [...fields.map((f) => f.name), "text"].find((name) => found[name]);
    if (first || characters(draft.text.trim()) > limit) {
      setWrong(found);
      form.current?.querySelector<HTMLElement>(`[name="${first ?? "text"}"]`)?.focus();
      return;
    }
    keepJSON(keptAs, { ...draft, text: "" });
    store.open(trimmed(draft), message);
  };

  return (
    <form className="start" ref={form} onSubmit={submit} noValidate>
      {message ? (
        <p className="note">
          <b>{widget.closedGreeting || texts.message.closed}</b>{" "}
          {opensAt ? `${texts.message.opens(whenNext(opensAt, store.now()))} ` : ""}
          {texts.message.leave}
        </p>
      ) : null}
      {invitation ? (
        <div className="said">
          <p className="by">
            <b>{invitation.name}</b> {invitation.department}
          </p>
          <p className="words" dir="auto">
            {invitation.text}
          </p>
        </div>
      ) : null}
      {!message && !invitation && widget.greeting ? (
        <p className="note" dir="auto">
          {widget.greeting}
        </p>
      ) : null}
      {!message && !invitation && !all && state.known.length > 0 && knownAs ? (
        <p className="hint">
          {texts.start.writingAs(knownAs)}{" "}
          <button className="link" type="button" onClick={() => setAll(true)}>
            {texts.start.change}
          </button>
        </p>
      ) : null}
      {fields.map((field) => (
        <Field
          key={field.name}
          field={field}
          value={valueOf(draft, field)}
          wrong={wrong[field.name]}
          change={(value) => change(withValue(draft, field, value))}
        />
      ))}
      {message && widget.reachBy === "either" ? <p className="hint">{texts.message.either}</p> : null}
      <label className="grow">
        <span>{invitation ? texts.start.answer(invitation.name) : texts.start.question}</span>
        <textarea
          name="text"
          data-first
          rows={4}
          value={draft.text}
          aria-invalid={wrong.text !== undefined}
          aria-describedby="wrong-text"
          onInput={(e) => change({ text: e.currentTarget.value })}
        />
      </label>
      <Counter text={draft.text} limit={limit} />
      <p className="wrong" id="wrong-text" role="alert">
        {wrong.text ?? ""}
      </p>
      <button className="go" type="submit">
        {message ? texts.message.send : texts.start.send}
      </button>
      {widget.textNumber ? (
        <p className="hint">
          <a href={widget.textLink}>SMS {widget.textNumber}</a>
        </p>
      ) : null}
      {widget.help && !state.chat ? (
        <button className="plain" type="button" onClick={() => store.find()}>
          {texts.start.find}
        </button>
      ) : widget.booking ? (
        <button className="plain" type="button" onClick={() => look(true)}>
          {texts.start.look}
        </button>
      ) : null}
    </form>
  );
}

/** What is left to ask somebody of whom something is known. */
function askedFields(widget: WidgetView, draft: StartDraft, known: string[]): FieldView[] {
  return askedWith(widget.form, (f) => valueOf(draft, f)).filter(
    (f) =>
      !known.includes(f.name) ||
      f.kind === "consent" ||
      f.kind === "department" ||
      widget.form.some((other) => other.showIf?.field === f.name),
  );
}

/** What a message needs: who writes, and how to answer them. */
export function messageFields(widget: WidgetView): FieldView[] {
  const fields: FieldView[] = [{ name: "name", kind: "text", label: texts.start.name, required: false }];
  if (widget.reachBy !== "phone")
    fields.push({
      name: "email",
      kind: "email",
      label: texts.message.email,
      required: widget.reachBy === "email",
    });
  if (widget.reachBy !== "email")
    fields.push({
      name: "phone",
      kind: "phone",
      label: texts.message.phone,
      required: widget.reachBy === "phone",
    });
  return fields;
}

/** Reads an answer out of what is typed. */
export function valueOf(draft: StartDraft, field: FieldView): string {
  if (field.name === "name" || field.name === "email" || field.name === "phone")
    return draft[field.name] ?? "";
  return draft.answers?.[field.name] ?? "";
}

/** Puts an answer into what is typed. */
export function withValue(draft: StartDraft, field: FieldView, value: string): Partial<StartDraft> {
  if (field.name === "name" || field.name === "email" || field.name === "phone")
    return { [field.name]: value };
  return { answers: { ...draft.answers, [field.name]: value } };
}

/** What is sent: without white space at the ends. */
export function trimmed(draft: StartDraft): StartDraft {
  const answers = Object.fromEntries(
    Object.entries(draft.answers ?? {}).map(([name, answer]) => [name, answer.trim()]),
  );
  return {
    name: draft.name.trim(),
    email: draft.email.trim(),
    phone: draft.phone?.trim() ?? "",
    text: draft.text.trim(),
    answers,
  };
}
