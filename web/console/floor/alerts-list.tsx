import "./alerts.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { Link } from "react-router";

import { timeOfDay } from "../../shared/format";
import { useNow } from "../desk/provider";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { LoadTrouble } from "../kit/states";
import { OnIt } from "./alert-band";
import { alertWords, useAlerts } from "./alerts";

/** For leads: what calls for them now, who sees to it, and what was over lately. */
export function Alerts() {
  const alerts = useAlerts();
  const now = useNow();
  const [past, setPast] = useState(false);
  if (alerts.isError) return <LoadTrouble error={alerts.error} again={() => void alerts.refetch()} />;
  const all = alerts.data ?? [];
  const open = all.filter((a) => !a.endedAt);
  const over = all.filter((a) => a.endedAt);
  return (
    <section className="alerts" aria-labelledby="alerts-head" aria-busy={!alerts.data}>
      <h2 id="alerts-head">{open.length > 0 || !alerts.data ? t`Alerts` : t`No alerts right now`}</h2>
      <ul>
        {open.map((a) => (
          <li key={a.id} className={a.takenBy ? "taken" : ""}>
            <Icons.Warning />
            <span className="cut">
              <b>{a.departmentName}</b>: {alertWords(a, now)}
            </span>
            <time dateTime={a.raisedAt}>{timeOfDay(a.raisedAt)}</time>
            <span className="acts">
              {a.kind === "rating" ? (
                <Button variant="outlined" component={Link} to="/feedback?toRead=1">
                  <Trans>Read it</Trans>
                </Button>
              ) : null}{" "}
              {a.takenBy ? <span className="by">{t`${a.takenBy} is on it`}</span> : <OnIt alert={a} />}
            </span>
          </li>
        ))}
      </ul>
      {over.length > 0 ? (
        <Button onClick={() => setPast(!past)} aria-expanded={past}>
          {past ? t`Hide what is over` : t`Over, of the last 12 hours: ${over.length}`}
        </Button>
      ) : null}
      {past ? (
        <ul>
          {over.map((a) => (
            <li key={a.id} className="over">
              <Icons.Check />
              <span className="cut">
                <b>{a.departmentName}</b>: {alertWords(a, now)}
              </span>
              <time dateTime={a.raisedAt}>
                {t`${timeOfDay(a.raisedAt)} to ${timeOfDay(a.endedAt ?? a.raisedAt)}`}
              </time>
              <span className="by">{a.takenBy ?? ""}</span>
            </li>
          ))}
        </ul>
      ) : null}
    </section>
  );
}
