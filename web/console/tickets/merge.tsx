import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { wordsFor } from "../../shared/problem";
import type { TicketRow } from "../../shared/types";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { Select } from "../kit/select";
import { say } from "../kit/say";
import { Wrong } from "../kit/states";
import { FindTicket } from "./find";

/** Lets several tickets go on in one of them. */
export function MergeMany({
  picked,
  close,
  merged,
}: {
  picked: TicketRow[];
  close: () => void;
  merged: () => void;
}) {
  const oldest = [...picked].sort((a, b) => a.number - b.number);
  const [into, setInto] = useState(oldest[0]?.id ?? "");
  const target = picked.find((r) => r.id === into);
  if (!target) return null;
  return (
    <Asks target={target} from={picked.filter((r) => r.id !== into)} close={close} merged={merged}>
      <Select
        label={t`They go on in`}
        value={into}
        change={setInto}
        options={oldest.map((r) => ({ value: r.id, label: `${r.number}: ${r.title}` }))}
      />
    </Asks>
  );
}

/** Looks for the ticket in which another one goes on. */
export function MergeOne({
  from,
  close,
  merged,
}: {
  from: TicketRow;
  close: () => void;
  merged: (into: TicketRow) => void;
}) {
  const [target, setTarget] = useState<TicketRow>();
  if (target) {
    return <Asks target={target} from={[from]} close={close} merged={() => merged(target)} />;
  }
  return (
    <Dialog open onClose={close} aria-labelledby="merge-title">
      <DialogTitle id="merge-title">
        <Trans>In which ticket does {from.number} go on?</Trans>
      </DialogTitle>
      <DialogContent className="ticket-form">
        <FindTicket without={from.id} choose={setTarget} verb={t`This one`} />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>
          <Trans>Not now</Trans>
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** By which customers are told apart. */
function emailOf(row: TicketRow): string {
  return (row.email ?? "").toLowerCase();
}

interface AsksProps {
  target: TicketRow;
  from: TicketRow[];
  close: () => void;
  merged: () => void;
  children?: React.ReactNode;
}

/** Says what merging does, which cannot be undone, and does it. */
function Asks({ target, from, close, merged, children }: AsksProps) {
  const queries = useQueryClient();
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState<string>();
  const others = from.filter((r) => emailOf(r) !== emailOf(target));
  const numbers = from.map((r) => r.number).join(", ");
  const merge = async () => {
    setBusy(true);
    setTrouble(undefined);
    try {
      for (const one of from) {
        await ask(
          api.POST("/api/tickets/{id}/merge", {
            params: { path: { id: one.id } },
            body: { into: target.id },
          }),
        );
      }
      say(plural(from.length, { one: "# ticket merged", other: "# tickets merged" }), "success");
      merged();
      close();
    } catch (error) {
      setTrouble(wordsFor(error));
      setBusy(false);
    }
    await queries.invalidateQueries({ queryKey: ["tickets"] });
    await queries.invalidateQueries({ queryKey: ["ticket"] });
  };
  return (
    <Dialog open onClose={close} aria-labelledby="merge-title">
      <DialogTitle id="merge-title">
        <Trans>
          Merge {numbers} into {target.number}?
        </Trans>
      </DialogTitle>
      <DialogContent className="ticket-form">
        {children}
        <p>
          <Trans>
            What was said stands together in <bdi>“{target.title}”</bdi>, with all chats and tags. The others
            are done and lead there. This cannot be undone.
          </Trans>
        </p>
        {others.length > 0 ? (
          <p className="conflict" role="alert">
            <Icons.Warning />{" "}
            <Trans>
              They are not all from the same customer. Answers then go to {target.email || t`nobody by email`}{" "}
              only.
            </Trans>
          </p>
        ) : null}
        <Wrong words={trouble} />
      </DialogContent>
      <DialogActions>
        <Button autoFocus onClick={close}>
          <Trans>Keep them apart</Trans>
        </Button>
        <Button variant="contained" disabled={busy} onClick={() => void merge()}>
          <Trans>Merge</Trans>
        </Button>
      </DialogActions>
    </Dialog>
  );
}
