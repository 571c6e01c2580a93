import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

import { api, ask } from "../../shared/api";
import { clock } from "../../shared/format";
import { useChats, useListed, useNow, useTeam } from "../desk/provider";
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
  return (
    <footer className="strip" aria-label="The team now">
      <span>
        Queue <b>{since.length}</b>
      </span>
      <span>
        longest wait <b>{since.length > 0 ? clock(longest) : "none"}</b>
      </span>
      {f ? (
        <span className="wide">
          {f.targetSeconds > 0
            ? `taken within ${clock(f.targetSeconds * 1000)} today `
            : "taken on target today "}
          <b>{f.todayDecided > 0 ? `${f.todayWithin} of ${f.todayDecided}` : "none yet"}</b>
        </span>
      ) : null}
      {f ? (
        <span className="wide">
          on the site <b>{f.onSite}</b>
        </span>
      ) : null}
      <span className="wide">
        <b>
          {available} of {operators.length}
        </b>{" "}
        operators available
      </span>
      {soundIsBlocked() ? <span className="lost wide">Click anywhere to turn on sound</span> : null}
      {connection === "live" ? (
        <span role="status">
          <Icons.Live /> Live
        </span>
      ) : (
        <span role="status" className="lost">
          <Icons.Lost />{" "}
          {connection === "connecting"
            ? "Connecting"
            : "No connection. Trying again; what you write is kept."}
        </span>
      )}
    </footer>
  );
}
