import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, ask } from "../../shared/api";
import { clock } from "../../shared/format";
import { useDesk, useDeskStore, useNow } from "../desk/provider";
import { Icons } from "../icons";
import { soundIsBlocked } from "../notices/sounds";

/** The strip at the foot: figures of the whole team, all of them counted. */
export function StatusStrip() {
  const { chats, operators, connection } = useDesk();
  const store = useDeskStore();
  const now = useNow();
  const waiting = [...store.offers(), ...store.waiting()].filter((c) => c.phase === "waiting");
  const longest = waiting.length > 0 ? now - Math.min(...waiting.map((c) => Date.parse(c.since))) : 0;
  const available = operators.filter((o) => o.state === "available").length;
  const mine = [...chats.values()].filter((c) => c.phase === "active").length;
  const figures = useQuery({
    placeholderData: keepPreviousData,
    // Asked anew at once when a chat comes or is taken, and now and then for the rest.
    queryKey: ["figures", waiting.length, mine],
    queryFn: () => ask(api.GET("/api/figures")),
    refetchInterval: 5000,
    enabled: connection === "live",
  });
  const f = figures.data;
  return (
    <footer className="strip" aria-label="The team now">
      <span>
        Queue <b>{waiting.length}</b>
      </span>
      <span>
        longest wait <b>{waiting.length > 0 ? clock(longest) : "none"}</b>
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
