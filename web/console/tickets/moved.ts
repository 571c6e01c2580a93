import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";

import type { TicketView } from "../../shared/types";

/** Takes a ticket as the server has it now, and lets what lists tickets ask anew. */
export function useTicketMoved(): (ticket: TicketView) => void {
  const queries = useQueryClient();
  return useCallback(
    (ticket) => {
      queries.setQueryData(["ticket", ticket.number], ticket);
      void queries.invalidateQueries({ queryKey: ["tickets"] });
    },
    [queries],
  );
}
