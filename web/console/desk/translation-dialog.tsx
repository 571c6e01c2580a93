import "./later.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import type { ChatView } from "../../shared/types";
import { Button } from "../kit/button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { Select } from "../kit/select";
import { Wrong } from "../kit/states";
import { languageName } from "./language-name";
import { myLanguage, translate, useTranslator } from "./translator";

interface Props {
  chat: ChatView;
  /** What the visitor seems to write, where that is known already. */
  guess?: string;
  onClose: () => void;
}

/** Chooses between which languages a chat is translated. */
export default function TranslationDialog({ chat, guess: guessed = "", onClose }: Props) {
  const ability = useTranslator();
  const languages = ability?.languages ?? [];
  const asked = useQuery({
    queryKey: ["language", chat.id, "asked"],
    queryFn: () => ask(api.GET("/api/chats/{id}/language", { params: { path: { id: chat.id } } })),
    enabled: guessed === "" && !chat.translating,
  }).data;
  const [picked, setPicked] = useState<{ theirs?: string; ours?: string }>({});
  const [trouble, setTrouble] = useState("");
  const [sending, setSending] = useState(false);
  const guess = guessed || asked?.language || "";
  const first = (tag: string) => (languages.includes(tag) ? tag : "");
  const theirs = picked.theirs ?? chat.translating?.theirs ?? (first(guess) || first(asked?.browser ?? ""));
  const ours = picked.ours ?? chat.translating?.ours ?? myLanguage(languages);
  const options = languages.map((l) => ({ value: l, label: languageName(l) }));
  const begin = async () => {
    setSending(true);
    try {
      await translate(chat.id, theirs, ours, false);
      onClose();
    } catch (error) {
      setTrouble(wordsFor(error));
      setSending(false);
    }
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs" aria-labelledby="translate-title">
      <DialogTitle id="translate-title">
        <Trans>Translate the chat</Trans>
      </DialogTitle>
      <DialogContent className="pass">
        {ability && languages.length < 2 ? (
          <p>
            <Trans>
              No translator is connected. Whoever runs this server can connect one; the guide says how.
            </Trans>
          </p>
        ) : (
          <>
            <p>
              <Trans>A translator puts your words into the visitor's language and theirs into yours.</Trans>
            </p>
            <Select
              label={t`The visitor writes`}
              value={theirs}
              options={options}
              change={(l) => setPicked({ ...picked, theirs: l })}
              hint={
                guess && theirs === guess ? t`A guess from what they wrote; change it if it is wrong.` : ""
              }
            />
            <Select
              label={t`You read`}
              value={ours}
              options={options}
              change={(l) => setPicked({ ...picked, ours: l })}
            />
          </>
        )}
        <Wrong words={theirs && theirs === ours ? t`Choose two different languages.` : trouble} />
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>
          <Trans>Cancel</Trans>
        </Button>
        <Button
          variant="contained"
          disabled={!theirs || theirs === ours || sending}
          onClick={() => void begin()}
        >
          <Trans>Translate</Trans>
        </Button>
      </DialogActions>
    </Dialog>
  );
}
