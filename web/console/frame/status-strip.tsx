import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useStore } from "zustand";

import { api, ask } from "../../shared/api";
import { clock } from "../../shared/format";
import type { Figures } from "../../shared/types";
import { useChats, useDeskStore, useListed, useNow, useTeam } from "../desk/provider";
import { offers, waiting } from "../desk/store/lists";
import { Icons } from "../icons";
import { soundIsBlocked } from "../notices/sounds";

/** The strip at the foot: figures of the whole team, all of them counted. */
export function StatusStrip() {
  const operators = useTeam((s) => s.operators);
  const connection = useTeam((s) => s.connection);
  const now = useNow();
  const since = useListed((chats, me) =>
    [...offers(chats, me), ...waiting(chats, me)]
      .filter((c) => c.phase === "waiting")
      .map((c) => Date.parse(c.since)),
  );
  const longest = since.length > 0 ? now - Math.min(...since) : 0;
  const available = operators.filter((o) => o.state === "available").length;
  const active = useChats((s) => [...s.chats.values()].filter((c) => c.phase === "active").length);
  const queries = useQueryClient();
  const figures = useQuery({
    placeholderData: keepPreviousData,
    queryKey: ["figures"],
    queryFn: () => ask(api.GET("/api/figures")),
    refetchInterval: 5000,
    enabled: connection === "live",
  });
  // Asked anew at once when a chat comes or is taken, and now and then for the rest.
  const count = since.length;
  useEffect(() => {
    void queries.invalidateQueries({ queryKey: ["figures"] });
  }, [queries, count, active]);
  const f = figures.data;
  const seen = useStore(useDeskStore().looks.onSite, (s) => s.total);
  return (
    <footer className="strip" aria-label={t`The team now`}>
      <span>
        <Trans>
          Queue <b>{since.length}</b>
        </Trans>
      </span>
      <span>
        <Trans>
          longest wait <b>{since.length > 0 ? clock(longest) : t`none`}</b>
        </Trans>
      </span>
      {f ? (
        <span className="wide">
          {f.targetSeconds > 0 ? (
            <Trans>
              taken within {clock(f.targetSeconds * 1000)} today <b>{within(f)}</b>
            </Trans>
          ) : (
            <Trans>
              taken on target today <b>{within(f)}</b>
            </Trans>
          )}
        </span>
      ) : null}
      {f ? (
        <span className="wide">
          <Trans>
            on the site <b>{seen ?? f.onSite}</b>
          </Trans>
        </span>
      ) : null}
      <span className="wide">
        <Trans>
          <b>
            {available} of {operators.length}
          </b>{" "}
          operators available
        </Trans>
      </span>
      {soundIsBlocked() ? (
        <span className="lost wide">
          <Trans>Click anywhere to turn on sound</Trans>
        </span>
      ) : null}
      {connection === "live" ? (
        <span role="status">
          <Icons.Live /> <Trans>Live</Trans>
        </span>
      ) : (
        <span role="status" className="lost">
          <Icons.Lost />{" "}
          {connection === "connecting"
            ? t`Connecting`
            : t`No connection. Trying again; what you write is kept.`}
        </span>
      )}
    </footer>
  );
}

/** How many of today's chats were taken in time. */
function within({ todayWithin, todayDecided }: Figures): string {
  return todayDecided > 0 ? t`${todayWithin} of ${todayDecided}` : t`none yet`;
}
