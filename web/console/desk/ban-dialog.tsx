import { useState } from "react";

import { ProblemError, wordsFor } from "../../shared/problem";
import type { ChatView } from "../../shared/types";
import { useKept } from "../forms/kept";
import { Button } from "../kit/button";
import { Choice } from "../kit/choice";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { TextField } from "../kit/text-field";
import { useDeskStore } from "./provider";

const ends = [
  { hours: 1, words: "for an hour" },
  { hours: 24, words: "for a day" },
  { hours: 24 * 7, words: "for a week" },
  { hours: 24 * 30, words: "for 30 days" },
  { hours: 0, words: "until somebody lifts it" },
];

/** Shuts a visitor out, with a reason and an end. */
export default function BanDialog({ chat, onClose }: { chat: ChatView; onClose: () => void }) {
  const store = useDeskStore();
  const [typed, setReason] = useKept(`stoop.desk.ban.${chat.id}`);
  const reason = typed ?? "";
  const [hours, setHours] = useState(24);
  const [trouble, setTrouble] = useState("");
  const name = chat.name || "this visitor";
  const ban = () => {
    store.acts.ban({ chatId: chat.id, reason: reason.trim(), hours }).then(
      () => {
        setReason(null);
        onClose();
      },
      (error: unknown) => {
        const field = error instanceof ProblemError ? error.problem.fields?.[0]?.words : undefined;
        setTrouble(field ?? wordsFor(error));
      },
    );
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs" aria-labelledby="ban-title">
      <DialogTitle id="ban-title">
        Ban <bdi>{name}</bdi>
      </DialogTitle>
      <DialogContent className="pass">
        <p>
          The chat ends now, and this browser no longer sees the chat on the site. A lead can lift the ban
          under Setup, Bans.
        </p>
        <TextField
          label="Reason (for colleagues)"
          value={reason}
          onChange={(e) => setReason(e.target.value || null)}
          fullWidth
          autoFocus
          error={trouble !== ""}
          helperText={trouble || "The visitor does not see it."}
          slotProps={{ htmlInput: { maxLength: 300 } }}
        />
        <Choice
          label="For how long"
          value={hours}
          options={ends.map((e) => ({ value: e.hours, words: <span>{e.words}</span> }))}
          change={setHours}
        />
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" color="error" onClick={ban}>
          End the chat and ban
        </Button>
      </DialogActions>
    </Dialog>
  );
}
