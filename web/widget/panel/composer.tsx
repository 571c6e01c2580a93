import { useEffect, useRef, useState, type KeyboardEvent } from "react";

import { characters } from "../../shared/format";
import { keep, kept } from "../../shared/storage";
import { Counter } from "./counter";
import { draftKey, type PanelStore } from "./store";
import { texts } from "./texts";

interface Props {
  store: PanelStore;
  name: string;
  limit: number;
  chatKey: string;
}

/** Where the visitor writes. Enter sends, Shift+Enter makes a new line. */
export function Composer({ store, name, limit, chatKey }: Props) {
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
    >
      <Counter text={text} limit={limit} />
      <div className="row">
        <textarea
          ref={field}
          data-first
          rows={1}
          aria-label={texts.write(name)}
          placeholder={texts.write(name)}
          value={text}
          onInput={(event) => change(event.currentTarget.value)}
          onKeyDown={onKeyDown}
        />
        <button className="go" type="submit" disabled={!trimmed || tooLong}>
          {texts.send}
        </button>
      </div>
      <p className="hint">{texts.draftsSeen}</p>
    </form>
  );
}

/** Reports whether an input method is still putting a character together. */
function composing(event: KeyboardEvent): boolean {
  // Preact hands over the browser's own event, React wraps it.
  return (event.nativeEvent ?? (event as unknown as globalThis.KeyboardEvent)).isComposing;
}
