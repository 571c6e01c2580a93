import { keepPreviousData, useQuery, type UseQueryResult } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import type { Report } from "../../shared/types";
import { useAddress } from "../kit/address";
import { askedOf, type Asked } from "../filters/asked";
import { shift } from "../filters/periods";
import { useToday } from "../filters/today";

/** How a report is cut. */
export type By = NonNullable<Asked["by"]>;

/** Returns what the address asks for; without a period, of the last four weeks. */
export function useAsked(): { asked: Asked; address: URLSearchParams } {
  const [address] = useAddress();
  const today = useToday();
  const asked = askedOf(address);
  if (!asked.from && !asked.to) {
    asked.from = shift(today, -27);
    asked.to = today;
  }
  return { asked, address };
}

/** Returns the address with its period, as links to the chats behind a figure need it. */
export function useBehind(): URLSearchParams {
  const { asked, address } = useAsked();
  const whole = new URLSearchParams(address);
  if (asked.from) whole.set("from", asked.from);
  if (asked.to) whole.set("to", asked.to);
  return whole;
}

/** Reads a report as the address asks for it, cut in one way; rowsOnly is quicker where the total is not shown. */
export function useReport(by: By, compare = false, rowsOnly = false): UseQueryResult<Report> {
  const { asked, address } = useAsked();
  const against = compare ? ((address.get("against") ?? "before") as NonNullable<Asked["against"]>) : "none";
  return useQuery({
    queryKey: ["report", by, against, rowsOnly, asked],
    queryFn: () => ask(api.GET("/api/reports", { params: { query: { ...asked, by, against, rowsOnly } } })),
    placeholderData: keepPreviousData,
    refetchInterval: (query) => (query.state.data?.loading ? 3000 : false),
  });
}
