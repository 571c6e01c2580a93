import "./person-notes.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import { keep, kept } from "../../shared/storage";
import type { ContactNoteView } from "../../shared/types";
import { sayTrouble } from "../kit/say";
import { TextField } from "../kit/text-field";
import { useKept } from "./kept";

/** What the team noted about a person, with a line for more. What could not be stored comes back. */
export function PersonNotes({
  notes,
  keptAs,
  add,
  again,
}: {
  notes: readonly ContactNoteView[];
  /** Under which what is being typed is kept. */
  keptAs: string;
  add: (text: string) => Promise<unknown>;
  /** Reads the notes anew. */
  again: () => Promise<unknown>;
}) {
  const [text, setText] = useKept(keptAs);
  const send = () => {
    const words = (text ?? "").trim();
    if (!words) return;
    setText(null);
    add(words).then(again, (error: unknown) => {
      const now = kept(keptAs); // what is being typed by now stays behind it
      keep(keptAs, now ? `${words} ${now}` : words);
      sayTrouble(error);
    });
  };
  const remove = (id: string) =>
    ask(api.DELETE("/api/contact-notes/{id}", { params: { path: { id } } })).then(again, sayTrouble);
  return (
    <>
      <ul className="contact-notes">
        {notes.map((n) => (
          <li key={n.id}>
            <p dir="auto">{n.text}</p>
            <span className="meta">
              {n.by}, {dayAndTime(n.at)}
              {n.mine ? (
                <button className="link" onClick={() => void remove(n.id)}>
                  <Trans>delete</Trans>
                </button>
              ) : null}
            </span>
          </li>
        ))}
      </ul>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          send();
        }}
      >
        <TextField
          size="small"
          fullWidth
          value={text ?? ""}
          placeholder={t`Add a note`}
          onChange={(e) => setText(e.target.value || null)}
          onBlur={send}
          slotProps={{
            htmlInput: { "aria-label": t`Add a note about the person`, maxLength: 2000, dir: "auto" },
          }}
        />
      </form>
    </>
  );
}
