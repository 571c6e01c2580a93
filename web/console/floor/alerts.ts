import { t } from "@lingui/core/macro";
import { useQuery } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import { clock } from "../../shared/format";
import type { AlertView } from "../../shared/types";
import { useTeam } from "../desk/provider";

/** What leads are called for now, and were lately. */
export function useAlerts() {
  const connection = useTeam((s) => s.connection);
  return useQuery({
    queryKey: ["alerts"],
    queryFn: () => ask(api.GET("/api/alerts")),
    refetchInterval: 30_000,
    enabled: connection === "live",
  });
}

/** Says what an alert is for; of one that is not over, as it stands at a time in milliseconds. */
export function alertWords(a: AlertView, now: number): string {
  const visitor = a.visitor ?? "";
  switch (a.kind) {
    case "queue":
      return a.endedAt ? t`up to ${a.worst} were waiting` : t`${a.over} or more are waiting`;
    case "wait":
      return a.endedAt
        ? t`somebody waited ${clock(a.worst * 1000)}`
        : t`somebody has waited longer than ${clock(a.over * 1000)}`;
    case "nobody": {
      const began = Date.parse(a.raisedAt) - a.over * 1000;
      const lasted = clock((a.endedAt ? Date.parse(a.endedAt) : now) - began);
      return a.endedAt ? t`nobody was available for ${lasted}` : t`nobody available for ${lasted}`;
    }
    case "rating":
      return visitor ? t`${visitor} rated a chat ${a.worst} of 5` : t`a visitor rated a chat ${a.worst} of 5`;
  }
}
