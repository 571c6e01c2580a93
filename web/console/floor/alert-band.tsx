import "./alerts.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useLocation } from "react-router";

import { api, ask } from "../../shared/api";
import type { AlertView } from "../../shared/types";
import { useDeskStore, useNow } from "../desk/provider";
import { Icons } from "../icons";
import { Button, IconButton } from "../kit/button";
import { sayTrouble } from "../kit/say";
import { alertWords, useAlerts } from "./alerts";

/**
 * Calls a lead on every page: for what nobody sees to yet and they have not put aside. On the
 * Floor all alerts stand by themselves.
 */
export default function AlertBand() {
  const alerts = useAlerts();
  const store = useDeskStore();
  const now = useNow();
  const [aside, setAside] = useState<ReadonlySet<string>>(new Set());
  const known = useRef<Set<string> | undefined>(undefined);
  const onFloor = useLocation().pathname.startsWith("/floor");
  const calling = (alerts.data ?? []).filter((a) => !a.endedAt && !a.takenBy);
  useEffect(() => {
    if (!alerts.data) return;
    const open = alerts.data.filter((a) => !a.endedAt && !a.takenBy);
    // What was there before this tab is shown, and does not ring.
    const fresh = known.current ? open.filter((a) => !known.current?.has(a.id)) : [];
    known.current = new Set(alerts.data.map((a) => a.id));
    const first = fresh[0];
    if (first)
      store.call(
        first.departmentName,
        alertWords(first, store.now()),
        `alert-${first.kind}-${first.departmentId}`,
      );
  }, [alerts.data, store]);
  const shown = calling.filter((a) => !aside.has(a.id));
  const first = shown[0];
  if (!first || onFloor) return null;
  const more = shown.length - 1;
  return (
    <div className="alert-band" role="alert" aria-label={t`Alerts`}>
      <Icons.Warning />
      <p className="cut">
        <b>{first.departmentName}</b>: {alertWords(first, now)}
        {more > 0 ? ` · ${plural(more, { one: "and # more", other: "and # more" })}` : ""}
      </p>
      <OnIt alert={first} />
      <Button variant="outlined" component={Link} to="/floor">
        <Trans>To the Floor</Trans>
      </Button>
      <IconButton
        aria-label={t`Put aside, for me alone`}
        onClick={() => setAside(new Set([...aside, ...shown.map((a) => a.id)]))}
      >
        <Icons.Close />
      </IconButton>
    </div>
  );
}

/** Says that I see to an alert; colleagues read it and are not called any more. */
export function OnIt({ alert }: { alert: AlertView }) {
  const queries = useQueryClient();
  const take = async () => {
    try {
      await ask(api.PUT("/api/alerts/{id}/taken", { params: { path: { id: alert.id } } }));
    } catch (error) {
      sayTrouble(error);
    }
    await queries.invalidateQueries({ queryKey: ["alerts"] });
  };
  return (
    <Button variant="outlined" onClick={() => void take()}>
      <Trans>I’m on it</Trans>
    </Button>
  );
}
