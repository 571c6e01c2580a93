import Button from "@mui/material/Button";
import InputBase from "@mui/material/InputBase";
import { useState } from "react";

import { characters } from "../../shared/format";
import { keep, kept } from "../../shared/storage";
import type { ChatView } from "../../shared/types";
import { useDeskStore } from "./provider";
import { draftKey } from "./store";

/** Where an operator writes. It names whom it speaks to; Enter sends, Shift+Enter makes a line. */
export function Composer({ chat, name, primary }: { chat: ChatView; name: string; primary: boolean }) {
  const store = useDeskStore();
  const keptAs = draftKey(chat.id);
  const [text, setText] = useState(() => kept(keptAs) ?? "");
  const trimmed = text.trim();
  const left = chat.messageLimit - characters(trimmed);
  const nearEnd = left <= Math.max(20, chat.messageLimit / 10);

  const change = (value: string) => {
    setText(value);
    keep(keptAs, value || null);
    store.types(chat.id, value.trim() !== "");
  };
  const send = () => {
    if (!trimmed || left < 0) return;
    store.write(chat.id, trimmed);
    setText("");
    keep(keptAs, null);
  };

  return (
    <form
      className="composer"
      onSubmit={(event) => {
        event.preventDefault();
        send();
      }}
    >
      <InputBase
        id={`write-${chat.id}`}
        className="write"
        multiline
        minRows={2}
        maxRows={7}
        fullWidth
        value={text}
        placeholder={`Reply to ${name}`}
        inputProps={{ "aria-label": `Reply to ${name}` }}
        onChange={(event) => change(event.target.value)}
        onBlur={() => store.types(chat.id, false)}
        onKeyDown={(event) => {
          if (event.key === "Enter" && !event.shiftKey && !event.nativeEvent.isComposing) {
            event.preventDefault();
            send();
          }
        }}
      />
      <div className="row">
        <span className={`left ${left < 0 ? "over" : ""}`} role="status">
          {nearEnd ? (left < 0 ? `${-left} characters too many` : `${left} characters left`) : ""}
        </span>
        <Button
          type="submit"
          variant={primary && trimmed ? "contained" : "outlined"}
          disabled={!trimmed || left < 0}
        >
          Send <span className="key">Enter</span>
        </Button>
      </div>
    </form>
  );
}
