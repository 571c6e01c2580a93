import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";

import { keepInFront } from "../../shared/storage";
import type { ChatView } from "../../shared/types";
import { useKept } from "../forms/kept";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { InputBase } from "../kit/input";
import { sayTrouble } from "../kit/say";
import { useDeskStore } from "./provider";

/** What a lead can do who reads along: whisper, step in, take over. */
export default function WatcherFoot({ chat }: { chat: ChatView }) {
  const store = useDeskStore();
  const keptAs = `stoop.desk.whisper.${chat.id}`;
  const [typed, setTyped] = useKept(keptAs);
  const text = typed ?? "";
  const write = (words: string) => setTyped(words || null);
  const whisper = () => {
    const words = text.trim();
    if (!words) return;
    write("");
    store.acts.whisper(chat.id, words).catch((error: unknown) => {
      keepInFront(keptAs, words); // before what is being typed by now
      sayTrouble(error);
    });
  };
  return (
    <>
      <form
        className="composer noting"
        onSubmit={(e) => {
          e.preventDefault();
          whisper();
        }}
      >
        <p className="mode">
          <Icons.Eye />{" "}
          <Trans>You are watching unseen. {chat.ownerName ?? t`A colleague`} owns this chat.</Trans>
        </p>
        <InputBase
          id={`write-${chat.id}`}
          className="write"
          fullWidth
          multiline
          maxRows={4}
          value={text}
          placeholder={t`Whisper to ${chat.ownerName ?? t`the owner`}; the visitor never sees it`}
          inputProps={{
            "aria-label": t`Whisper to ${chat.ownerName ?? t`the owner`}`,
            dir: "auto",
            maxLength: 1000,
          }}
          onChange={(e) => write(e.target.value)}
          onKeyDown={(e) => {
            if (e.key !== "Enter" || e.shiftKey || e.nativeEvent.isComposing) return;
            e.preventDefault();
            whisper();
          }}
        />
        <div className="row">
          <span />
          <Button type="submit" variant="outlined" disabled={!text.trim()}>
            <Trans>
              Whisper <span className="key">Enter</span>
            </Trans>
          </Button>
        </div>
      </form>
      <footer className="lane-foot">
        <Button onClick={() => store.acts.join(chat.id).catch(sayTrouble)} startIcon={<Icons.Person />}>
          <Trans>Step in</Trans>
        </Button>
        <Button onClick={() => store.acts.takeOver(chat.id).catch(sayTrouble)} startIcon={<Icons.Passing />}>
          <Trans>Take over</Trans>
        </Button>
        <Button
          onClick={() => store.acts.stopWatching(chat.id).catch(sayTrouble)}
          startIcon={<Icons.Close />}
        >
          <Trans>Stop watching</Trans>
        </Button>
      </footer>
    </>
  );
}
