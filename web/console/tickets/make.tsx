import "./tickets.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, ask } from "../../shared/api";
import { dayAndTime, toldZone } from "../../shared/format";
import type { TicketDraft, TicketRow, TicketView } from "../../shared/types";
import { uuid } from "../../shared/uuid";
import { useMe } from "../desk/provider";
import { useKept } from "../forms/kept";
import { MomentField } from "../forms/moment-field";
import { useSaving } from "../forms/saving";
import { momentIn, wallIn } from "../forms/wall-time";
import { Button } from "../kit/button";
import { Tick } from "../kit/choice";
import { Dialog, DialogActions, DialogContent, DialogTitle } from "../kit/dialog";
import { TextInput } from "../kit/field";
import { Select } from "../kit/select";
import { LoadTrouble, Wrong } from "../kit/states";
import { TextField } from "../kit/text-field";
import { useDepartments, useOwners } from "./people";
import { priorityOptions } from "./words";

interface Props {
  /** The chat from which it is made, if it is. */
  chatId?: string;
  /** The number of the message from which it is made. */
  message?: number | undefined;
  onClose: () => void;
  onMade?: (made: TicketView) => void;
}

/** Makes a ticket: from a chat or a message with what is known filled in, or from nothing. */
export function Make({ chatId = "", message = 0, onClose, onMade }: Props) {
  const draft = useQuery({
    queryKey: ["ticket-draft", chatId, message],
    queryFn: () => ask(api.GET("/api/tickets/draft", { params: { query: { chat: chatId, message } } })),
    staleTime: 0,
    gcTime: 0,
  });
  return (
    <Dialog open onClose={onClose} aria-labelledby="make-ticket-title" fullWidth maxWidth="sm">
      <DialogTitle id="make-ticket-title">
        {message ? t`Ticket from this message` : chatId ? t`Ticket from this chat` : t`New ticket`}
      </DialogTitle>
      {draft.isError ? (
        <DialogContent>
          <LoadTrouble error={draft.error} again={() => void draft.refetch()} />
        </DialogContent>
      ) : draft.data ? (
        <Form draft={draft.data} chatId={chatId} message={message} onClose={onClose} onMade={onMade} />
      ) : (
        <DialogContent aria-busy="true" />
      )}
    </Dialog>
  );
}

function Form({
  draft,
  chatId,
  message,
  onClose,
  onMade,
}: {
  draft: TicketDraft;
  chatId: string;
  message: number;
  onClose: () => void;
  onMade: Props["onMade"];
}) {
  const me = useMe();
  const queries = useQueryClient();
  const owners = useOwners();
  const departments = useDepartments();
  // Sending again after a lost answer makes no second one.
  const [clientId] = useState(uuid);
  const [title, setTitle] = useState(draft.title);
  // What was noted stays if the dialog is closed by mistake.
  const [note, setNote] = useKept(`stoop.ticket.making.${chatId}`);
  const [department, setDepartment] = useState(draft.department);
  const [owner, setOwner] = useState(chatId ? me.id : "");
  const [priority, setPriority] = useState<TicketRow["priority"]>("normal");
  const [name, setName] = useState(draft.name);
  const [email, setEmail] = useState(draft.email);
  const [receipt, setReceipt] = useState(draft.mails && draft.email !== "");
  const [calls, setCalls] = useState(false);
  const [phone, setPhone] = useState(draft.phone);
  const [callAt, setCallAt] = useState(() => wallIn(Date.now() + 3600 * 1000, toldZone()));
  const saving = useSaving();
  const there = useQuery({
    queryKey: ["ticket-draft", chatId, message, department],
    queryFn: () =>
      ask(api.GET("/api/tickets/draft", { params: { query: { chat: chatId, message, department } } })),
    placeholderData: keepPreviousData,
  });
  const due = (there.data ?? draft).due[priority];
  const make = () => {
    let made: TicketView | undefined;
    const send = async () => {
      const body = {
        clientId,
        ...(chatId ? { chatId } : {}),
        ...(message ? { message } : {}),
        ...{ title, note: note ?? "", department, owner, priority, name, email, tags: draft.tags },
        receipt: receipt && email.trim() !== "",
        ...(calls ? callOf(phone, callAt) : {}),
      };
      made = await ask(api.POST("/api/tickets", { body }));
      setNote(null);
      await queries.invalidateQueries({ queryKey: ["tickets"] });
    };
    void saving.run(send, t`Ticket made`).then((well) => {
      if (!well || !made) return;
      onClose();
      onMade?.(made);
    });
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        make();
      }}
    >
      <DialogContent className="ticket-form">
        {draft.tickets.length > 0 ? (
          <p className="already">
            <Trans>Not done for the same person:</Trans>{" "}
            {draft.tickets.map((r) => (
              <Link key={r.id} to={`/tickets/${r.number}`} onClick={onClose}>
                {r.number}: <bdi>{r.title}</bdi>
              </Link>
            ))}
          </p>
        ) : null}
        <TextInput
          label={t`What is to be done`}
          value={title}
          change={setTitle}
          most={160}
          wrong={saving.wrongAt("title")}
          hint={t`The customer reads this in the subject of emails.`}
        />
        <TextField
          label={t`Note for the team`}
          size="small"
          multiline
          minRows={2}
          maxRows={8}
          value={note ?? ""}
          onChange={(e) => setNote(e.target.value || null)}
          slotProps={{ htmlInput: { maxLength: 10000, dir: "auto" }, inputLabel: { shrink: true } }}
        />
        <div className="pair">
          <Select
            label={t`Department`}
            value={department}
            change={setDepartment}
            options={departments}
            wrong={saving.wrongAt("department")}
          />
          <Select
            label={t`Owner`}
            value={owner}
            change={setOwner}
            options={owners}
            wrong={saving.wrongAt("owner")}
          />
        </div>
        <div className="pair">
          <Select
            label={t`Priority`}
            value={priority}
            change={(value) => setPriority(value as TicketRow["priority"])}
            options={[...priorityOptions]}
            hint={due ? t`Due ${dayAndTime(due)}` : t`No due time`}
          />
        </div>
        <div className="pair">
          <TextInput label={t`Customer`} value={name} change={setName} most={120} />
          <TextInput
            label={t`Email`}
            value={email}
            change={setEmail}
            most={254}
            wrong={saving.wrongAt("email")}
          />
        </div>
        <Tick checked={calls} change={setCalls}>
          <Trans>Call the customer back</Trans>
        </Tick>
        {calls ? (
          <div className="pair">
            <TextInput
              label={t`Phone number`}
              value={phone}
              change={setPhone}
              most={40}
              wrong={saving.wrongAt("phone")}
            />
            <MomentField
              label={t`Call at`}
              value={callAt}
              change={setCallAt}
              wrong={saving.wrongAt("callAt")}
            />
          </div>
        ) : null}
        {draft.mails ? (
          <Tick checked={receipt && email.trim() !== ""} change={setReceipt}>
            {chatId
              ? t`Email the customer a receipt with the number and the chat`
              : t`Email the customer a receipt with the number`}
          </Tick>
        ) : null}
        <Wrong words={saving.trouble || undefined} />
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>
          <Trans>Not now</Trans>
        </Button>
        <Button
          type="submit"
          variant="contained"
          disabled={saving.busy || !title.trim() || (calls && !phone.trim())}
        >
          <Trans>Make ticket</Trans>
        </Button>
      </DialogActions>
    </form>
  );
}

/** A call at a time that the clock on the team's wall shows. */
function callOf(phone: string, wall: string) {
  const at = momentIn(wall, toldZone());
  return { phone, ...(at === undefined ? {} : { callAt: new Date(at).toISOString() }) };
}
