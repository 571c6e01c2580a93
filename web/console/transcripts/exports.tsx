import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { timeOfDay } from "../../shared/format";
import { wordsFor } from "../../shared/problem";
import type { Export } from "../../shared/types";
import { askedOf } from "../filters/asked";
import { Icons } from "../icons";
import { Button, IconButton } from "../kit/button";
import { Choice, Tick } from "../kit/choice";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { LinearProgress } from "../kit/progress";
import { sayTrouble } from "../kit/say";
import { Wrong } from "../kit/states";
import { count } from "../reports/figures";
import { formats } from "./formats";

interface Props {
  address: URLSearchParams;
  words: string;
  total: number;
  more: boolean;
}

/** Makes a file of all that was found, in the background, and hands out those that are done. */
export function Exports({ address, words, total, more }: Props) {
  const [open, setOpen] = useState(false);
  const list = useExports();
  const working = list.some((e) => e.state === "waiting" || e.state === "working");
  return (
    <>
      <Button
        variant="outlined"
        startIcon={<Icons.Download />}
        aria-haspopup="dialog"
        onClick={() => setOpen(true)}
        disabled={total === 0 && list.length === 0}
      >
        {working ? t`Exporting` : t`Export`}
      </Button>
      {open ? (
        <Dialog open onClose={() => setOpen(false)} aria-labelledby="export-title" maxWidth="sm" fullWidth>
          <DialogTitle id="export-title">
            <Trans>Export</Trans>
          </DialogTitle>
          <DialogContent className="exports">
            {total > 0 ? <Start address={address} words={words} total={total} more={more} /> : null}
            {list.length > 0 ? (
              <>
                <h3>
                  <Trans>Your exports of today</Trans>
                </h3>
                <ul>
                  {list.map((e) => (
                    <One key={e.id} made={e} />
                  ))}
                </ul>
              </>
            ) : null}
          </DialogContent>
          <DialogActions>
            <Button onClick={() => setOpen(false)}>
              <Trans>Close</Trans>
            </Button>
          </DialogActions>
        </Dialog>
      ) : null}
    </>
  );
}

function useExports(): Export[] {
  return (
    useQuery({
      queryKey: ["exports"],
      queryFn: () => ask(api.GET("/api/exports")),
      refetchInterval: (query) =>
        query.state.data?.some((e) => e.state === "waiting" || e.state === "working") ? 1000 : false,
    }).data ?? []
  );
}

function Start({ address, words, total, more }: Props) {
  const queries = useQueryClient();
  const [format, setFormat] = useState<Export["format"]>("html");
  const [notes, setNotes] = useState(true);
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState<string>();
  const start = async () => {
    setBusy(true);
    setTrouble(undefined);
    try {
      const query = { ...askedOf(address), words, format, notes };
      await ask(api.POST("/api/exports", { params: { query } }));
    } catch (error) {
      setTrouble(wordsFor(error));
    }
    await queries.invalidateQueries({ queryKey: ["exports"] });
    setBusy(false);
  };
  return (
    <>
      <p>
        {more
          ? t`More than ${count(total)} chats match. All of them are written, newest first.`
          : plural(total, {
              one: "# chat matches.",
              other: "# chats match. All of them are written, newest first.",
            })}
      </p>
      <Choice
        label={t`Format`}
        value={format}
        change={setFormat}
        options={formats().map((f) => ({ value: f.value, words: f.words }))}
      />
      <Tick checked={notes} change={setNotes}>
        <Trans>With the team’s notes</Trans>
      </Tick>
      <Wrong words={trouble} />
      <Button variant="contained" disabled={busy} onClick={() => void start()}>
        <Trans>Start the export</Trans>
      </Button>
    </>
  );
}

function One({ made: e }: { made: Export }) {
  const queries = useQueryClient();
  const name = formats().find((f) => f.value === e.format)?.words ?? e.format;
  const cancel = async () => {
    try {
      await ask(api.DELETE("/api/exports/{id}", { params: { path: { id: e.id } } }));
    } catch (error) {
      sayTrouble(error);
    }
    await queries.invalidateQueries({ queryKey: ["exports"] });
  };
  const under = e.state === "waiting" || e.state === "working";
  return (
    <li>
      <span>
        {name}, {timeOfDay(e.createdAt)}
        <small>
          {" "}
          {under
            ? t`${e.done} of ${e.total} chats`
            : e.state === "failed"
              ? t`could not be made; try again`
              : plural(e.total, { one: "# chat", other: "# chats" })}
        </small>
      </span>
      {under ? (
        <LinearProgress
          variant="determinate"
          value={e.total > 0 ? (100 * e.done) / e.total : 0}
          aria-label={t`Chats written`}
        />
      ) : null}
      {e.state === "done" ? (
        <Button component="a" href={`/api/exports/${e.id}/file`} download startIcon={<Icons.Download />}>
          <Trans>Download</Trans>
        </Button>
      ) : null}
      <IconButton
        aria-label={under ? t`Cancel this export` : t`Remove this export`}
        onClick={() => void cancel()}
      >
        <Icons.Close />
      </IconButton>
    </li>
  );
}
