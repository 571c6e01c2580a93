import "./later.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import { wordsFor } from "../../shared/problem";
import { keep, kept } from "../../shared/storage";
import type { ChatView } from "../../shared/types";
import { useDeskStore, useTeam } from "./provider";
import { Button } from "../kit/button";
import { Choice } from "../kit/choice";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { TextField } from "../kit/text-field";

/** Asks a department for help in a chat; any member may join. */
export default function AskTeam({ chat, onClose }: { chat: ChatView; onClose: () => void }) {
  const store = useDeskStore();
  const departments = useTeam((s) => s.departments);
  const keptAs = `stoop.desk.ask.${chat.id}`;
  const [to, setTo] = useState(chat.departmentId);
  const [text, setText] = useState(() => kept(keptAs) ?? "");
  const [trouble, setTrouble] = useState("");
  const send = () => {
    store.acts.callTeam(chat.id, to, text.trim()).then(
      () => {
        keep(keptAs, null);
        onClose();
      },
      (error: unknown) => setTrouble(wordsFor(error)),
    );
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs" aria-labelledby="ask-title">
      <DialogTitle id="ask-title">
        <Trans>
          Ask the team about <bdi>{chat.name || t`the visitor`}</bdi>
        </Trans>
      </DialogTitle>
      <DialogContent className="pass">
        <Choice
          label={t`Whom to ask`}
          value={to}
          options={departments.map((d) => ({
            value: d.id,
            words: (
              <>
                <span>{d.name}</span>
                <span className="state">{d.open ? t`open` : t`closed`}</span>
              </>
            ),
          }))}
          change={setTo}
        />
        <TextField
          label={t`What you need to know`}
          helperText={t`The visitor never sees it. You remain the owner; whoever joins speaks alongside you.`}
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            keep(keptAs, e.target.value || null);
          }}
          multiline
          minRows={2}
          fullWidth
          autoFocus
          slotProps={{ htmlInput: { maxLength: 1000, dir: "auto" } }}
        />
        {trouble ? (
          <p className="wrong" role="alert">
            {trouble}
          </p>
        ) : null}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>
          <Trans>Cancel</Trans>
        </Button>
        <Button variant="contained" onClick={send}>
          <Trans>Ask</Trans>
        </Button>
      </DialogActions>
    </Dialog>
  );
}
