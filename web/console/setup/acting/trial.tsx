import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { Link } from "react-router";

import { api, ask } from "../../../shared/api";
import { dayAndTime } from "../../../shared/format";
import { wordsFor } from "../../../shared/problem";
import type { ActingRule, Tried } from "../../../shared/types";
import { Button } from "../../kit/button";
import { Select } from "../../kit/select";

/** Lets a rule, as it stands on screen, act on past chats; nothing is done. */
export function Trial({ rule }: { rule: ActingRule }) {
  const [days, setDays] = useState("30");
  const [tried, setTried] = useState<{ of: string; result: Tried }>();
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const of = JSON.stringify([rule, days]);
  const run = () => {
    setBusy(true);
    setTrouble("");
    // Off rules would do nothing: it is tried as if it were on.
    const body = { rules: [{ ...rule, on: true, name: rule.name || t`New rule` }], days: Number(days) };
    ask(api.POST("/api/setup/acting/try", { body }))
      .then((result) => setTried({ of, result }))
      .catch((error: unknown) => setTrouble(wordsFor(error)))
      .finally(() => setBusy(false));
  };
  const result = tried?.of === of ? tried.result : undefined; // not of what stood there before
  const looked = result?.chats ?? 0;
  const times = result?.rules[0]?.times ?? 0;
  const chats = result?.rules[0]?.chats ?? 0;
  return (
    <section className="trial" aria-label={t`Try it on past chats`}>
      <h3>
        <Trans>Try it on past chats</Trans>
      </h3>
      <div className="row">
        <Select
          label={t`Of`}
          value={days}
          options={[
            { value: "7", label: t`the last 7 days` },
            { value: "30", label: t`the last 30 days` },
            { value: "90", label: t`the last 90 days` },
          ]}
          change={setDays}
        />
        <Button variant="outlined" disabled={busy || rule.do.length === 0} onClick={run}>
          <Trans>Try it</Trans>
        </Button>
      </div>
      {trouble ? <p className="wrong">{trouble}</p> : null}
      {result ? (
        <div role="status">
          <p>
            {t`It would have acted in ${chats} of ${looked} chats, ${times} times in all.`}{" "}
            {result.most ? t`These are the latest of the period; there were more.` : null}
          </p>
          <ul className="runs">
            {result.firing.slice(0, 20).map((f) => (
              <li key={`${f.chatId} ${f.at}`}>
                <Link to={`/transcripts/${f.chatId}`}>{f.visitor || t`Visitor`}</Link>
                <span className="meta">{dayAndTime(f.at)}</span>
              </li>
            ))}
          </ul>
        </div>
      ) : null}
    </section>
  );
}
