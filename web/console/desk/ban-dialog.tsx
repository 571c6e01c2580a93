import "./later.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import { ProblemError, wordsFor, wrongFields } from "../../shared/problem";
import type { ChatView } from "../../shared/types";
import { useKept } from "../forms/kept";
import { Button } from "../kit/button";
import { Choice } from "../kit/choice";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { TextField } from "../kit/text-field";
import { useDeskStore } from "./provider";

const ends = [
  { hours: 1, words: t`for an hour` },
  { hours: 24, words: t`for a day` },
  { hours: 24 * 7, words: t`for a week` },
  { hours: 24 * 30, words: t`for 30 days` },
  { hours: 0, words: t`until somebody lifts it` },
];

/** Shuts a visitor out, with a reason and an end. */
export default function BanDialog({ chat, onClose }: { chat: ChatView; onClose: () => void }) {
  const store = useDeskStore();
  const [typed, setReason] = useKept(`stoop.desk.ban.${chat.id}`);
  const reason = typed ?? "";
  const [hours, setHours] = useState(24);
  const [trouble, setTrouble] = useState("");
  const name = chat.name || t`this visitor`;
  const ban = () => {
    store.acts.ban({ chatId: chat.id, reason: reason.trim(), hours }).then(
      () => {
        setReason(null);
        onClose();
      },
      (error: unknown) => {
        const [field] = error instanceof ProblemError ? Object.values(wrongFields(error.problem)) : [];
        setTrouble(field ?? wordsFor(error));
      },
    );
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs" aria-labelledby="ban-title">
      <DialogTitle id="ban-title">
        <Trans>
          Ban <bdi>{name}</bdi>
        </Trans>
      </DialogTitle>
      <DialogContent className="pass">
        <p>
          <Trans>
            The chat ends now, and this browser no longer sees the chat on the site. A lead can lift the ban
            under Setup, Bans.
          </Trans>
        </p>
        <TextField
          label={t`Reason (for colleagues)`}
          value={reason}
          onChange={(e) => setReason(e.target.value || null)}
          fullWidth
          autoFocus
          error={trouble !== ""}
          helperText={trouble || t`The visitor does not see it.`}
          slotProps={{ htmlInput: { maxLength: 300 } }}
        />
        <Choice
          label={t`For how long`}
          value={hours}
          options={ends.map((e) => ({ value: e.hours, words: <span>{e.words}</span> }))}
          change={setHours}
        />
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>
          <Trans>Cancel</Trans>
        </Button>
        <Button variant="contained" color="error" onClick={ban}>
          <Trans>End the chat and ban</Trans>
        </Button>
      </DialogActions>
    </Dialog>
  );
}
