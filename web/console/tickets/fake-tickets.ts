import type { TicketRow } from "../../shared/types";

/** A ticket as it stands in a list, for tests. */
export const row = (number: number, change: Partial<TicketRow> = {}): TicketRow => ({
  id: `t${number}`,
  number,
  title: `Ticket of ${number}`,
  status: "us",
  priority: "normal",
  departmentId: "help",
  departmentName: "Travel help",
  tags: [],
  openedAt: "2026-11-29T10:00:00Z",
  updatedAt: "2026-11-29T10:00:00Z",
  email: "wren@example.com",
  name: "Wren",
  ...change,
});
