import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState, type FormEvent } from "react";

import { api, ask } from "../../shared/api";
import { ProblemError, wordsFor, wrongFields } from "../../shared/problem";
import { say } from "../kit/say";
import { Button } from "../kit/button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { TextField } from "../kit/text-field";

/** Lets operators change their own password. Every other session of theirs ends with it. */
export default function OwnPassword({ onClose }: { onClose: () => void }) {
  const [current, setCurrent] = useState("");
  const [next, setNext] = useState("");
  const [wrong, setWrong] = useState<Record<string, string>>({});
  const [busy, setBusy] = useState(false);
  const save = (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    setWrong({});
    ask(api.PUT("/api/me/password", { body: { current, new: next } }))
      .then(() => {
        say(t`Password changed. You have been logged out everywhere else.`, "success");
        onClose();
      })
      .catch((error: unknown) => {
        const fields = wrongFields(error instanceof ProblemError ? error.problem : undefined);
        setWrong(Object.keys(fields).length > 0 ? fields : { "": wordsFor(error) });
      })
      .finally(() => setBusy(false));
  };
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs" aria-labelledby="password-title">
      <form onSubmit={save} noValidate>
        <DialogTitle id="password-title">
          <Trans>Change your password</Trans>
        </DialogTitle>
        <DialogContent className="own-password">
          <TextField
            label={t`Current password`}
            type="password"
            autoComplete="current-password"
            autoFocus
            fullWidth
            margin="dense"
            value={current}
            error={wrong.current !== undefined}
            helperText={wrong.current}
            onChange={(e) => setCurrent(e.target.value)}
          />
          <TextField
            label={t`New password`}
            type="password"
            autoComplete="new-password"
            fullWidth
            margin="dense"
            value={next}
            error={wrong.new !== undefined}
            helperText={wrong.new ?? t`At least 15 characters; a few words are easy to remember`}
            onChange={(e) => setNext(e.target.value)}
          />
          {wrong[""] ? (
            <p className="wrong" role="alert">
              {wrong[""]}
            </p>
          ) : null}
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>
            <Trans>Cancel</Trans>
          </Button>
          <Button type="submit" variant="contained" disabled={busy || !current || !next}>
            <Trans>Change password</Trans>
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
