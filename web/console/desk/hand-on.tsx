import { useState } from "react";

import { keep, kept } from "../../shared/storage";
import { wordsFor } from "../../shared/problem";
import type { ChatView, OperatorView } from "../../shared/types";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { TextField } from "../kit/text-field";
import { useDeskStore, useMe, useTeam } from "./provider";

/** What an owner does with a chat that somebody else should have. */
export type Passing = "hand-on" | "put-back" | "colleague";

interface Props {
  chat: ChatView;
  passing: Passing;
  onClose: () => void;
}

const titles: Record<Passing, string> = {
  "hand-on": "Hand on the chat with",
  "put-back": "Put back the chat with",
  colleague: "Add a colleague to the chat with",
};

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
  const name = chat.name || "the visitor";
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
        {titles[passing]} <bdi>{name}</bdi>
      </DialogTitle>
      <DialogContent className="pass">
        {passing === "put-back" ? (
          <p>
            <bdi>{name}</bdi> returns to the {chat.departmentName} queue, keeps the place of their first
            arrival, and is told.
          </p>
        ) : (
          <div role="radiogroup" aria-label="To whom" className="choices">
            {passing === "hand-on" ? (
              <>
                <h3>Departments</h3>
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
                    <span className="state">{d.open ? "open" : "closed"}</span>
                  </label>
                ))}
              </>
            ) : null}
            <h3>Colleagues</h3>
            {there.map((o) => (
              <Colleague key={o.id} operator={o} to={to} choose={setTo} can />
            ))}
            {rest.map((o) => (
              <Colleague
                key={o.id}
                operator={o}
                to={to}
                choose={setTo}
                can={passing === "colleague" && o.state !== "offline"}
              />
            ))}
          </div>
        )}
        {passing === "colleague" ? null : (
          <TextField
            label={passing === "hand-on" ? "Note for whoever takes it" : "Note for the team"}
            helperText="The visitor never sees it."
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
            The chat stays yours until somebody takes it, and comes back to you if nobody does.
          </p>
        ) : null}
        {trouble ? (
          <p className="wrong" role="alert">
            {trouble}
          </p>
        ) : null}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" disabled={busy || (passing !== "put-back" && !to)} onClick={send}>
          {{ "hand-on": "Hand on", "put-back": "Put back", colleague: "Add" }[passing]}
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
          ? `${operator.load} of ${operator.capacity} chats${full ? ", full" : ""}`
          : operator.state}
      </span>
    </label>
  );
}
