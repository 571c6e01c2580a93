import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import { Icons } from "../icons";
import { say, sayTrouble } from "../kit/say";

interface Props {
  correcting: boolean;
  noting: boolean;
  /** Whether notes are wanted until it is said otherwise. */
  pinned: boolean;
  /** Whether a note is begun and not saved. */
  noteLeft: boolean;
  onPin: (pinned: boolean) => void;
  onNote: () => void;
}

/** Says what is being written, when it is not an answer. */
export function ModeLine({ correcting, noting, pinned, noteLeft, onPin, onNote }: Props) {
  if (correcting) {
    return (
      <p className="mode">
        <Icons.Pencil /> <Trans>Correcting your message. Esc leaves it as it was.</Trans>
      </p>
    );
  }
  if (noting) {
    return (
      <p className="mode">
        <Icons.Note /> <Trans>Note to team. The visitor never sees it.</Trans>
        <button type="button" className="link" aria-pressed={pinned} onClick={() => onPin(!pinned)}>
          {pinned ? t`Back to replies after the next note` : t`Keep writing notes`}
        </button>
      </p>
    );
  }
  if (!noteLeft) return null;
  return (
    <p className="mode">
      <Icons.Note /> <Trans>A note to the team is not saved yet.</Trans>
      <button type="button" className="link" onClick={onNote}>
        <Trans>Open it</Trans>
      </button>
    </p>
  );
}

/** A correction that the server did not take: its words are not lost. */
export function Unsaved({ words, onDiscard }: { words: string; onDiscard: () => void }) {
  const copy = () => {
    navigator.clipboard.writeText(words).then(() => say(t`Copied`, "success"), sayTrouble);
  };
  return (
    <p className="mode wrong" role="alert">
      <Trans>
        Your correction was not saved: <i dir="auto">{words}</i>
      </Trans>{" "}
      <button type="button" className="link" onClick={copy}>
        <Trans>Copy</Trans>
      </button>{" "}
      <button type="button" className="link" onClick={onDiscard}>
        <Trans>Discard</Trans>
      </button>
    </p>
  );
}
