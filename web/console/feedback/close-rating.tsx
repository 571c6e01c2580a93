import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import type { ChatView, FeedbackView } from "../../shared/types";
import { Button } from "../kit/button";
import { TextField } from "../kit/text-field";

/** Closes a low rating that was read, with a note for the team. */
export function CloseRating({ chat, feedback }: { chat: ChatView; feedback: FeedbackView }) {
  const queries = useQueryClient();
  const [note, setNote] = useState("");
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState("");
  const close = async () => {
    setBusy(true);
    setTrouble("");
    try {
      const params = { path: { id: chat.id } };
      const body = { number: feedback.number, ...(note.trim() ? { note: note.trim() } : {}) };
      await ask(api.POST("/api/chats/{id}/feedback-read", { params, body }));
    } catch (error) {
      setTrouble(wordsFor(error));
    } finally {
      setBusy(false);
      void queries.invalidateQueries({ queryKey: ["script", chat.id] });
      await queries.invalidateQueries({ queryKey: ["feedback"] });
    }
  };
  return (
    <form
      className="close-rating"
      onSubmit={(event) => {
        event.preventDefault();
        void close();
      }}
    >
      <TextField
        size="small"
        fullWidth
        value={note}
        placeholder={t`What was done about it (optional, for the team)`}
        onChange={(e) => setNote(e.target.value)}
        slotProps={{ htmlInput: { "aria-label": t`Note for the team`, maxLength: 2000 } }}
      />
      <Button type="submit" variant="contained" disabled={busy}>
        <Trans>Mark as read</Trans>
      </Button>
      {trouble ? (
        <p className="wrong" role="alert">
          {trouble}
        </p>
      ) : null}
    </form>
  );
}
