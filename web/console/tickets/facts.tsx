import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import type { TicketChat, TicketPart, TicketView } from "../../shared/types";
import { Icons } from "../icons";
import { IconButton } from "../kit/button";
import { Combo } from "../kit/combo";
import { sayTrouble } from "../kit/say";
import { Select } from "../kit/select";
import { Tag } from "../kit/tag";
import { Due } from "./due";
import { DueField } from "./due-field";
import { useTicketMoved } from "./moved";
import { useDepartments, useOwners } from "./people";
import { Settled } from "./settled";
import { priorityOptions, statusOptions } from "./words";

interface Props {
  ticket: TicketView;
  /** Nothing can be changed any more. */
  fixed: boolean;
  set: (part: TicketPart) => Promise<boolean>;
  reading: string | undefined;
  read: (chatId: string | undefined) => void;
}

/** What stands on a ticket, each changed in its place. */
export function Facts({ ticket, fixed, set, reading, read }: Props) {
  const moved = useTicketMoved();
  const owners = useOwners();
  const departments = useDepartments();
  const [tag, setTag] = useState("");
  const addTag = (words: string) => {
    const word = words.trim();
    setTag("");
    if (word) void set({ addTags: [word] });
  };
  const unlink = (chat: string) => {
    ask(api.DELETE("/api/tickets/{id}/chats/{chat}", { params: { path: { id: ticket.id, chat } } })).then(
      moved,
      sayTrouble,
    );
  };
  // Who has left the team, and a department that is gone, still stand there.
  const known = (options: { value: string; label: string }[], value: string, label: string) =>
    options.some((o) => o.value === value) ? options : [...options, { value, label }];
  return (
    <aside className="ticket-facts" aria-label={t`About the ticket`}>
      <fieldset disabled={fixed}>
        <Select
          label={t`Status`}
          value={ticket.status}
          change={(status) => void set({ status: status as TicketView["status"] })}
          options={[...statusOptions]}
        />
        <Select
          label={t`Owner`}
          value={ticket.ownerId ?? ""}
          change={(owner) => void set({ owner })}
          options={known(owners, ticket.ownerId ?? "", ticket.ownerName ?? "")}
        />
        <Select
          label={t`Priority`}
          value={ticket.priority}
          change={(priority) => void set({ priority: priority as TicketView["priority"] })}
          options={[...priorityOptions]}
        />
        <Select
          label={t`Department`}
          value={ticket.departmentId}
          change={(department) => void set({ department })}
          options={known(departments, ticket.departmentId, ticket.departmentName)}
        />
        <div className="due-part">
          <span className="label">
            <Trans>Due</Trans>
          </span>
          {ticket.dueAt ? (
            <>
              <Due at={ticket.dueAt} />
              <span className="meta">
                {!ticket.chosenDue
                  ? t`by priority, in open hours`
                  : ticket.call?.tries === 0
                    ? t`as the customer wants the call`
                    : t`chosen by hand`}
              </span>
            </>
          ) : (
            <span className="meta">
              {ticket.status === "customer" ? t`not while the customer is waited for` : t`at no time`}
            </span>
          )}
          {fixed ? null : <DueField ticket={ticket} set={set} />}
        </div>
        <Settled label={t`Customer`} value={ticket.name ?? ""} most={120} set={(name) => set({ name })} />
        <Settled label={t`Email`} value={ticket.email ?? ""} most={254} set={(email) => set({ email })} />
        {ticket.fields.map((f) => (
          <Settled
            key={f.name}
            label={f.label}
            value={ticket.values[f.name] ?? ""}
            most={500}
            set={(value) => set({ fields: { [f.name]: value } })}
          />
        ))}
        <div className="tags">
          {ticket.tags.map((word) => (
            <Tag
              key={word}
              removal={t`Remove the tag ${word}`}
              onRemove={() => void set({ removeTags: [word] })}
            >
              {word}
            </Tag>
          ))}
          <Combo
            bare
            label={t`Add a tag`}
            placeholder={t`Add tag`}
            value={tag}
            options={[]}
            most={40}
            change={setTag}
            settle={addTag}
          />
        </div>
      </fieldset>
      <h3>
        <Trans>Chats</Trans>
      </h3>
      {ticket.chats.length === 0 ? (
        <p className="nothing">
          <Trans>None. A chat is linked from its composer, under Articles and bookings, Tickets.</Trans>
        </p>
      ) : null}
      <ul className="ticket-chats">
        {ticket.chats.map((c) => (
          <li key={c.id}>
            <button
              className="link"
              disabled={c.gone}
              aria-pressed={reading === c.id}
              onClick={() => read(reading === c.id ? undefined : c.id)}
            >
              {nameOf(c)}
            </button>
            {fixed ? null : (
              <IconButton size="small" aria-label={t`Unlink ${nameOf(c)}`} onClick={() => unlink(c.id)}>
                <Icons.Close />
              </IconButton>
            )}
          </li>
        ))}
      </ul>
    </aside>
  );
}

function nameOf(c: TicketChat): string {
  if (c.gone) return t`A chat that is no longer kept`;
  return [c.name || t`Visitor`, c.startedAt ? dayAndTime(c.startedAt) : ""].filter(Boolean).join(", ");
}
