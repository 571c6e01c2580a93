import "./later.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import { keep, kept } from "../../shared/storage";
import { wordsFor } from "../../shared/problem";
import type { ChatView, OperatorView } from "../../shared/types";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { TextField } from "../kit/text-field";
import { stateWords } from "../words/codes";
import { useDeskStore, useMe, useTeam } from "./provider";

/** What an owner does with a chat that somebody else should have. */
export type Passing = "hand-on" | "put-back" | "colleague";

interface Props {
  chat: ChatView;
  passing: Passing;
  onClose: () => void;
}

/** Asks to whom a chat goes, with a note for them. What is typed is kept until it is sent. */
export function PassDialog({ chat, passing, onClose }: Props) {
  const store = useDeskStore();
  const operators = useTeam((s) => s.operators);
  const departments = useTeam((s) => s.departments);
  const me = useMe();
  const keptAs = `stoop.desk.note.${chat.id}`;
  const [note, setNote] = useState(() => kept(keptAs) ?? "");
  const [to, setTo] = useState("");
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const name = chat.name || t`the visitor`;
  const others = operators.filter((o) => o.id !== me.id);
  const there = others.filter((o) => o.state === "available");
  const rest = others.filter((o) => o.state !== "available");

  const write = (words: string) => {
    setNote(words);
    keep(keptAs, words || null);
  };
  const send = () => {
    setBusy(true);
    setTrouble("");
    const [kind, id = ""] = to.split(":");
    const act =
      passing === "put-back"
        ? store.acts.putBack(chat.id, note.trim())
        : passing === "colleague"
          ? store.acts.addColleague(chat.id, id)
          : store.acts.handOn(chat.id, {
              ...(kind === "operator" ? { operatorId: id } : { departmentId: id }),
              note: note.trim(),
            });
    act
      .then(() => {
        keep(keptAs, null);
        onClose();
      })
      .catch((error: unknown) => setTrouble(wordsFor(error)))
      .finally(() => setBusy(false));
  };

  return (
    <Dialog open onClose={onClose} fullWidth maxWidth="xs" aria-labelledby="pass-title">
      <DialogTitle id="pass-title">
        {passing === "hand-on" ? (
          <Trans>
            Hand on the chat with <bdi>{name}</bdi>
          </Trans>
        ) : passing === "put-back" ? (
          <Trans>
            Put back the chat with <bdi>{name}</bdi>
          </Trans>
        ) : (
          <Trans>
            Add a colleague to the chat with <bdi>{name}</bdi>
          </Trans>
        )}
      </DialogTitle>
      <DialogContent className="pass">
        {passing === "put-back" ? (
          <p>
            <Trans>
              <bdi>{name}</bdi> returns to the {chat.departmentName} queue, keeps the place of their first
              arrival, and is told.
            </Trans>
          </p>
        ) : (
          <div role="radiogroup" aria-label={t`To whom`} className="choices">
            {passing === "hand-on" ? (
              <>
                <h3>
                  <Trans>Departments</Trans>
                </h3>
                {departments.map((d) => (
                  <label key={d.id} className={d.open ? "" : "shut"}>
                    <input
                      type="radio"
                      name="to"
                      value={`department:${d.id}`}
                      checked={to === `department:${d.id}`}
                      onChange={(e) => setTo(e.target.value)}
                    />
                    <span>{d.name}</span>
                    <span className="state">{d.open ? t`open` : t`closed`}</span>
                  </label>
                ))}
              </>
            ) : null}
            <h3>
              <Trans>Colleagues</Trans>
            </h3>
            {there.map((o) => (
              <Colleague key={o.id} operator={o} to={to} choose={setTo} can />
            ))}
            {rest.map((o) => (
              <Colleague
                key={o.id}
                operator={o}
                to={to}
                choose={setTo}
                can={passing === "colleague" && (o.state === "available" || o.state === "away")}
              />
            ))}
          </div>
        )}
        {passing === "colleague" ? null : (
          <TextField
            label={passing === "hand-on" ? t`Note for whoever takes it` : t`Note for the team`}
            helperText={t`The visitor never sees it.`}
            value={note}
            onChange={(e) => write(e.target.value)}
            multiline
            minRows={2}
            fullWidth
            slotProps={{ htmlInput: { maxLength: 1000, dir: "auto" } }}
          />
        )}
        {passing === "hand-on" ? (
          <p className="hint">
            <Trans>The chat stays yours until somebody takes it, and comes back to you if nobody does.</Trans>
          </p>
        ) : null}
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
        <Button variant="contained" disabled={busy || (passing !== "put-back" && !to)} onClick={send}>
          {{ "hand-on": t`Hand on`, "put-back": t`Put back`, colleague: t`Add` }[passing]}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

interface ColleagueProps {
  operator: OperatorView;
  to: string;
  choose: (to: string) => void;
  can: boolean;
}

function Colleague({ operator, to, choose, can }: ColleagueProps) {
  const value = `operator:${operator.id}`;
  const full = operator.capacity > 0 && operator.load >= operator.capacity;
  return (
    <label className={can ? "" : "shut"}>
      <input
        type="radio"
        name="to"
        value={value}
        checked={to === value}
        disabled={!can}
        onChange={(e) => choose(e.target.value)}
      />
      <span>{operator.name}</span>
      <span className={`state ${full && can ? "full" : ""}`}>
        {full && can ? <Icons.Warning /> : null}
        {operator.state === "available"
          ? full
            ? t`${operator.load} of ${operator.capacity} chats, full`
            : t`${operator.load} of ${operator.capacity} chats`
          : stateWords(operator.state)}
      </span>
    </label>
  );
}
