import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { ProblemError, sentence, wordsFor, wrongFields } from "../../shared/problem";
import type { ImportView } from "../../shared/types";
import { Button } from "../kit/button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";

// As many lines as anybody reads; the counts tell the rest.
const most = 100;

/** Takes canned responses in from a CSV file, after showing what it would change. */
export function ImportDialog({ onClose }: { onClose: () => void }) {
  const queries = useQueryClient();
  const [csv, setCsv] = useState("");
  const [name, setName] = useState("");
  const [plan, setPlan] = useState<ImportView | undefined>();
  const [done, setDone] = useState(false);
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const run = (text: string, apply: boolean) => {
    setBusy(true);
    setTrouble("");
    ask(api.POST("/api/canned/import", { params: { query: { apply } }, body: { csv: text } }))
      .then(async (got) => {
        setPlan(got);
        if (!apply) return;
        setDone(true);
        await queries.invalidateQueries({ queryKey: ["canned"] });
      })
      .catch((error: unknown) => {
        const [field] = error instanceof ProblemError ? Object.values(wrongFields(error.problem)) : [];
        setTrouble(field ?? wordsFor(error));
      })
      .finally(() => setBusy(false));
  };
  const read = (file: File | undefined) => {
    if (!file) return;
    setName(file.name);
    setPlan(undefined);
    setDone(false);
    if (file.size > 8_000_000) {
      setTrouble(t`This file is larger than 8 MB. Split it.`);
      return;
    }
    void file.text().then((text) => {
      setCsv(text);
      run(text, false);
    });
  };
  const changes = plan ? plan.add.length + plan.change.length : 0;
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md" aria-labelledby="import-title">
      <DialogTitle id="import-title">
        <Trans>Import canned responses</Trans>
      </DialogTitle>
      <DialogContent className="import">
        <p>
          <Trans>
            A CSV file with a header row: shortcut, text and, optionally, folder, language, scope (own,
            department, common) and department. Nothing is deleted, and you see what changes before it does.
          </Trans>
        </p>
        <label className="add-file">
          {name || t`Choose a file`}
          <input type="file" accept=".csv,text/csv" onChange={(e) => read(e.target.files?.[0])} />
        </label>
        {trouble ? (
          <p className="wrong" role="alert">
            {trouble}
          </p>
        ) : null}
        {busy ? (
          <p role="status">
            <Trans>Reading {name}</Trans>
          </p>
        ) : null}
        {plan ? (
          <div role="status">
            <p>
              <b>
                {done
                  ? t`Done: ${plan.add.length} added, ${plan.change.length} changed.`
                  : t`${plan.add.length} to add, ${plan.change.length} to change, ${plan.same} unchanged, ${plan.rejected.length} rejected.`}
              </b>
            </p>
            {plan.rejected.length > 0 ? (
              <>
                <h3>
                  <Trans>Rejected</Trans>
                </h3>
                <ul className="lines">
                  {plan.rejected.slice(0, most).map((r) => (
                    <li key={`${r.line} ${r.words.join(" ")}`}>
                      <span className="line-number">
                        <Trans>Line {r.line}</Trans>
                      </span>
                      <span>{r.words.map(sentence).join(" ")}</span>
                    </li>
                  ))}
                </ul>
                {plan.rejected.length > most ? (
                  <p>
                    <Trans>and {plan.rejected.length - most} more</Trans>
                  </p>
                ) : null}
              </>
            ) : null}
            {changes > 0 && !done ? (
              <>
                <h3>
                  <Trans>What changes</Trans>
                </h3>
                <ul className="lines">
                  {[...plan.change, ...plan.add].slice(0, most).map((l) => (
                    <li key={l.line}>
                      <span className="line-number">
                        <Trans>Line {l.line}</Trans>
                      </span>
                      <b>;{l.shortcut}</b>
                      {l.language ? <span className="meta">{l.language}</span> : null}
                      <span className="cut">
                        {l.before ? (
                          <>
                            <s>{l.before}</s>{" "}
                          </>
                        ) : null}
                        {l.after}
                      </span>
                    </li>
                  ))}
                </ul>
                {changes > most ? (
                  <p>
                    <Trans>and {changes - most} more</Trans>
                  </p>
                ) : null}
              </>
            ) : null}
          </div>
        ) : null}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>{done ? t`Close` : t`Cancel`}</Button>
        {done ? null : (
          <Button variant="contained" disabled={busy || changes === 0} onClick={() => run(csv, true)}>
            {changes > 0 ? t`Import ${changes}` : t`Import`}
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
