import "./changes.css";
import "../kit/import-file.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { api, ask } from "../../shared/api";
import { ProblemError, wordsFor, wrongFields } from "../../shared/problem";
import type { TakenIn } from "../../shared/types";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { Confirm } from "../kit/confirm";
import { say } from "../kit/say";
import { fieldWords } from "../words/fields";
import { ChangeShown } from "./change-shown";

const largest = 8_000_000;

/** The whole set-up as one file: to keep, to compare, to bring to another Stoop. */
export function ConfigurationPage() {
  const queries = useQueryClient();
  const [file, setFile] = useState<{ name: string; text: string }>();
  const [told, setTold] = useState<TakenIn>();
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const [asking, setAsking] = useState(false);
  // What is said of a file that somebody turned away from is not shown.
  const chosen = useRef(0);

  const run = (text: string, apply?: string) => {
    const mine = ++chosen.current;
    setBusy(true);
    setTrouble("");
    const body = { file: text, ...(apply === undefined ? {} : { apply: true, state: apply }) };
    ask(api.POST("/api/setup/configuration", { body }))
      .then(async (got) => {
        if (mine !== chosen.current) return;
        setTold(got);
        if (!got.applied) return;
        say(t`The configuration was applied`, "success");
        await queries.invalidateQueries();
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
  const read = (picked: File | undefined) => {
    if (!picked) return;
    const mine = ++chosen.current;
    setTold(undefined);
    setFile(undefined);
    setTrouble("");
    setBusy(false);
    if (picked.size > largest) return setTrouble(t`This file is larger than 8 MB: it is no configuration.`);
    picked.text().then(
      (text) => {
        if (mine !== chosen.current) return;
        setFile({ name: picked.name, text });
        run(text);
      },
      (error: unknown) => setTrouble(wordsFor(error)),
    );
  };
  const changes = told?.changes ?? [];
  const mayApply = told !== undefined && !told.applied && told.wrong.length === 0 && changes.length > 0;
  return (
    <section className="editor changes" aria-label={t`Configuration file`}>
      <header>
        <h2>
          <Trans>Configuration file</Trans>
        </h2>
      </header>
      <div className="body import-file">
        <h3>
          <Trans>Save what is set up</Trans>
        </h3>
        <p className="about">
          <Trans>
            Everything that is set up, as one JSON file: departments, hours, rules, widgets, the Desk, the
            site. No passwords, no signing keys, no chats, no articles. Keep it, compare it, or bring it to
            another Stoop.
          </Trans>
        </p>
        <Button href="/api/setup/configuration" variant="outlined" startIcon={<Icons.Download />}>
          <Trans>Download the configuration</Trans>
        </Button>
        <h3>
          <Trans>Bring in a file</Trans>
        </h3>
        <p className="about">
          <Trans>
            You see what would change before anything does. It is changed as a whole or not at all; no
            department, no hours and no widget are removed, and nobody joins the team or gets another role by
            a file.
          </Trans>
        </p>
        <label className="choose">
          {file?.name ?? t`Choose a file`}
          <input
            type="file"
            accept=".json,application/json"
            onChange={(e) => {
              read(e.target.files?.[0]);
              e.target.value = ""; // the same file again, after it was mended
            }}
          />
        </label>
        {trouble ? (
          <p className="wrong" role="alert">
            {trouble}{" "}
            {file && told && !told.applied ? (
              <button className="as-link" onClick={() => run(file.text)}>
                <Trans>Look again at what would change</Trans>
              </button>
            ) : null}
          </p>
        ) : null}
        {busy ? (
          <p role="status">
            <Trans>Comparing it with what is set up</Trans>
          </p>
        ) : null}
        {told ? (
          <div role="status">
            <p>
              <b>{headline(told)}</b>
            </p>
            {told.newer > 0 && !told.applied ? (
              <p className="weak">
                {plural(told.newer, {
                  one: "# change was made here since this file was made. Where both differ, the file counts.",
                  other:
                    "# changes were made here since this file was made. Where both differ, the file counts.",
                })}
              </p>
            ) : null}
            {told.wrong.length > 0 ? (
              <>
                <h3>
                  <Trans>Mend this in the file first</Trans>
                </h3>
                <ul className="lines">
                  {told.wrong.map((w, i) => (
                    <li key={i}>
                      <b>{w.where}</b>
                      <span>
                        {w.field ? <code>{w.field}</code> : null} {fieldWords(w.words) ?? w.words}
                      </span>
                    </li>
                  ))}
                </ul>
              </>
            ) : null}
            {told.notes.length > 0 ? (
              <>
                <h3>
                  <Trans>Left out</Trans>
                </h3>
                <ul className="lines">
                  {told.notes.map((note, i) => (
                    <li key={i}>
                      <span>{fieldWords(note) ?? note}</span>
                    </li>
                  ))}
                </ul>
              </>
            ) : null}
            {changes.length > 0 ? (
              <>
                <h3>{told.applied ? t`What was changed` : t`What would change`}</h3>
                <ol className="change-list">
                  {changes.map((c) => (
                    <ChangeShown key={`${c.kind} ${c.thingId}`} change={c} told={false} />
                  ))}
                </ol>
              </>
            ) : null}
          </div>
        ) : null}
      </div>
      <footer>
        <Button variant="contained" disabled={!mayApply || busy} onClick={() => setAsking(true)}>
          <Trans>Apply</Trans>
        </Button>
      </footer>
      {asking && file && told ? (
        <Confirm
          title={t`Apply this configuration?`}
          yes={t`Apply`}
          no={t`Leave all as it is`}
          onNo={() => setAsking(false)}
          onYes={() => {
            setAsking(false);
            run(file.text, told.state);
          }}
        >
          <Trans>
            The team works by it at once, and open pages follow within seconds. Widgets can be put back from
            their history; for the rest download the configuration of now first.
          </Trans>
        </Confirm>
      ) : null}
    </section>
  );
}

function headline(told: TakenIn): string {
  const n = told.changes.length;
  if (told.applied) return plural(n, { one: "Done: # thing changed.", other: "Done: # things changed." });
  if (n === 0) return t`Nothing differs from what is set up here.`;
  return plural(n, { one: "# thing would change.", other: "# things would change." });
}
