import { useEffect, useRef, useState, type KeyboardEvent } from "react";

import { characters } from "../../shared/format";
import { keep, kept } from "../../shared/storage";
import { filesOf } from "../../shared/upload";
import { Counter } from "./counter";
import { draftKey } from "./drafts";
import type { PanelStore } from "./store";
import { talkTexts } from "./talk-texts";

interface Props {
  store: PanelStore;
  name: string;
  limit: number;
  chatKey: string;
  draftsSeen: boolean;
  /** Whether files can be sent. */
  files: boolean;
}

/** Where the visitor writes. Enter sends, Shift+Enter makes a new line. */
export function Composer({ store, name, limit, chatKey, draftsSeen, files }: Props) {
  const keptAs = draftKey(chatKey);
  const [text, setText] = useState(() => kept(keptAs) ?? "");
  const field = useRef<HTMLTextAreaElement>(null);
  const trimmed = text.trim();
  const tooLong = characters(trimmed) > limit;

  useEffect(() => {
    const area = field.current;
    if (!area) return;
    area.style.height = "auto";
    area.style.height = `${Math.min(area.scrollHeight + 2, 140)}px`;
  }, [text]);

  const change = (value: string) => {
    setText(value);
    keep(keptAs, value || null);
    store.types(value);
  };
  const send = () => {
    if (!trimmed || tooLong) return;
    store.say(trimmed);
    setText("");
    keep(keptAs, null);
    field.current?.focus();
  };
  const attach = (event: Event, data: DataTransfer | null) => {
    const list = files ? filesOf(data) : [];
    if (list.length === 0) return;
    event.preventDefault();
    store.uploads?.share(list);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key === "Enter" && !event.shiftKey && !composing(event)) {
      event.preventDefault();
      send();
    }
  };

  return (
    <form
      className="composer"
      onSubmit={(event) => {
        event.preventDefault();
        send();
      }}
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => attach(event as unknown as Event, event.dataTransfer)}
      onPaste={(event) => attach(event as unknown as Event, event.clipboardData)}
    >
      <Counter text={text} limit={limit} />
      <div className="row">
        {files ? (
          <label className="attach" title={talkTexts.attach}>
            <svg viewBox="0 0 16 16" aria-hidden="true">
              <path d="M13 7.500 7.700 12.800a3 3 0 0 1-4.300-4.300L9 2.900a2 2 0 0 1 2.900 2.900L6.500 11.200a1 1 0 0 1-1.400-1.400L10 4.900" />
            </svg>
            <input
              type="file"
              multiple
              aria-label={talkTexts.attach}
              onChange={(event) => {
                store.uploads?.share([...(event.currentTarget.files ?? [])]);
                event.currentTarget.value = "";
              }}
            />
          </label>
        ) : null}
        <textarea
          ref={field}
          data-first
          rows={1}
          aria-label={talkTexts.write(name)}
          placeholder={talkTexts.write(name)}
          value={text}
          onInput={(event) => change(event.currentTarget.value)}
          onKeyDown={onKeyDown}
        />
        <button className="go" type="submit" disabled={!trimmed || tooLong}>
          {talkTexts.send}
        </button>
      </div>
      {draftsSeen ? <p className="hint">{talkTexts.draftsSeen}</p> : null}
    </form>
  );
}

/** Reports whether an input method is still putting a character together. */
function composing(event: KeyboardEvent): boolean {
  // Preact hands over the browser's own event, React wraps it.
  return (event.nativeEvent ?? (event as unknown as globalThis.KeyboardEvent)).isComposing;
}
