import "./import-file.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { type ReactNode, useRef, useState } from "react";

import { ProblemError, sentence, wordsFor, wrongFields } from "../../shared/problem";
import { Button } from "./button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "./dialog";

/** What taking a file in would do, or did. */
export interface ImportPlan {
  add: number;
  change: number;
  same: number;
  rejected: number;
  /** The first entries that change or are added. */
  lines: { number: number; name?: ReactNode; before?: string; after: string }[];
  /** The first entries that cannot be used, and why. */
  refused: { number: number; words: string[] }[];
  /** What else there is to say. */
  beside?: string;
}

/** Takes a file in, after showing what it would change. */
export function ImportFile({
  title,
  accept,
  numbered,
  run,
  onClose,
  children,
}: {
  title: string;
  accept: string;
  /** Says where an entry stands in the file. */
  numbered: (n: number) => string;
  run: (text: string, apply: boolean) => Promise<ImportPlan>;
  onClose: () => void;
  /** Says what kind of file is expected. */
  children: ReactNode;
}) {
  const [text, setText] = useState("");
  const [name, setName] = useState("");
  const [plan, setPlan] = useState<ImportPlan | undefined>();
  const [done, setDone] = useState(false);
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  // What is said of a file that somebody turned away from is not shown.
  const chosen = useRef(0);
  const ask = (file: string, apply: boolean) => {
    const mine = chosen.current;
    setBusy(true);
    setTrouble("");
    run(file, apply)
      .then((got) => {
        if (mine !== chosen.current) return;
        setPlan(got);
        setDone(apply);
      })
      .catch((error: unknown) => {
        if (mine !== chosen.current) return;
        const [field] = error instanceof ProblemError ? Object.values(wrongFields(error.problem)) : [];
        setTrouble(field ?? wordsFor(error));
      })
      .finally(() => {
        if (mine === chosen.current) setBusy(false);
      });
  };
  const read = (file: File | undefined) => {
    if (!file) return;
    const mine = ++chosen.current;
    setName(file.name);
    setPlan(undefined);
    setDone(false);
    setBusy(false);
    setTrouble("");
    if (file.size > 8_000_000) {
      setTrouble(t`This file is larger than 8 MB. Split it.`);
      return;
    }
    file.text().then(
      (got) => {
        if (mine !== chosen.current) return;
        setText(got);
        ask(got, false);
      },
      (error: unknown) => setTrouble(wordsFor(error)),
    );
  };
  const changes = plan ? plan.add + plan.change : 0;
  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="md" aria-labelledby="import-title">
      <DialogTitle id="import-title">{title}</DialogTitle>
      <DialogContent className="import-file">
        <p>{children}</p>
        <label className="choose">
          {name || t`Choose a file`}
          <input
            type="file"
            accept={accept}
            onChange={(e) => {
              read(e.target.files?.[0]);
              e.target.value = ""; // the same file again, after it was mended
            }}
          />
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
                  ? t`Done: ${plan.add} added, ${plan.change} changed.`
                  : t`${plan.add} to add, ${plan.change} to change, ${plan.same} unchanged, ${plan.rejected} rejected.`}
              </b>
            </p>
            {plan.beside ? <p>{plan.beside}</p> : null}
            {plan.refused.length > 0 ? (
              <>
                <h3>
                  <Trans>Rejected</Trans>
                </h3>
                <ul className="lines">
                  {plan.refused.map((r) => (
                    <li key={`${r.number} ${r.words.join(" ")}`}>
                      <span className="line-number">{numbered(r.number)}</span>
                      <span>{r.words.map(sentence).join(" ")}</span>
                    </li>
                  ))}
                </ul>
                <Rest count={plan.rejected - plan.refused.length} />
              </>
            ) : null}
            {changes > 0 && !done ? (
              <>
                <h3>
                  <Trans>What changes</Trans>
                </h3>
                <ul className="lines">
                  {plan.lines.map((l) => (
                    <li key={l.number}>
                      <span className="line-number">{numbered(l.number)}</span>
                      {l.name}
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
                <Rest count={changes - plan.lines.length} />
              </>
            ) : null}
          </div>
        ) : null}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>{done ? t`Close` : t`Cancel`}</Button>
        {done ? null : (
          <Button variant="contained" disabled={busy || changes === 0} onClick={() => ask(text, true)}>
            {changes > 0 ? t`Import ${changes}` : t`Import`}
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}

function Rest({ count }: { count: number }) {
  return count > 0 ? (
    <p>
      <Trans>and {count} more</Trans>
    </p>
  ) : null;
}
