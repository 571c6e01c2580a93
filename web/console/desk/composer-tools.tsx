import { t } from "@lingui/core/macro";
import type { ReactNode, Ref } from "react";

import { Icons } from "../icons";
import { Tool } from "../kit/tool";
import { canRecord } from "./can-record";

interface Props {
  noting: boolean;
  /** Whether no file can go by this way. */
  noFiles: boolean;
  recording: boolean;
  emojiButton: Ref<HTMLButtonElement>;
  onAttach: () => void;
  onEmoji: () => void;
  onCanned: () => void;
  onNote: () => void;
  onArticles: (at: HTMLElement) => void;
  onRecord: () => void;
  /** What sends. */
  children: ReactNode;
}

/** What helps with writing, below the words, and what sends them. */
export function Tools({ noting, noFiles, recording, emojiButton, children, ...on }: Props) {
  return (
    <div className="row tools">
      <Tool name={t`Attach files`} act="attach" disabled={noFiles} onClick={on.onAttach}>
        <Icons.Clip />
      </Tool>
      <Tool name={t`Emoji`} act="emoji" ref={emojiButton} onClick={on.onEmoji}>
        <Icons.Face />
      </Tool>
      <Tool name={t`Canned responses`} act="canned" disabled={noting} onClick={on.onCanned}>
        <Icons.Answers />
      </Tool>
      <Tool
        name={noting ? t`Write to the visitor` : t`Note to team`}
        act="note"
        pressed={noting}
        onClick={on.onNote}
      >
        <Icons.Note />
      </Tool>
      <Tool name={t`Articles and bookings`} act="articles" disabled={noting} onClick={on.onArticles}>
        <Icons.Page />
      </Tool>
      {canRecord() ? (
        <Tool name={t`Voice message`} act="voice" disabled={noFiles || recording} onClick={on.onRecord}>
          <Icons.Microphone />
        </Tool>
      ) : null}
      {children}
    </div>
  );
}
