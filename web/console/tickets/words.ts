// Words for what the server says of tickets by a code.
import { t } from "@lingui/core/macro";

import type { TicketRow } from "../../shared/types";

const statuses = ["open", "us", "customer", "done"] as const;

/** Who has the next word. */
export function statusWords(status: TicketRow["status"]): string {
  return {
    open: t`Open`,
    us: t`Waiting for us`,
    customer: t`Waiting for customer`,
    done: t`Done`,
  }[status];
}

/** How soon somebody has to see to it. */
export function priorityWords(priority: TicketRow["priority"]): string {
  return { urgent: t`urgent`, high: t`high`, normal: t`normal`, low: t`low` }[priority];
}

/** What may be chosen, with words. */
export const statusOptions = statuses.map((value) => ({ value, label: statusWords(value) }));
export const priorityOptions = [
  { value: "urgent", label: t`Urgent` },
  { value: "high", label: t`High` },
  { value: "normal", label: t`Normal` },
  { value: "low", label: t`Low` },
] as const;
