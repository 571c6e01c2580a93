import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { Link } from "react-router";

import { useMe } from "../desk/provider";
import { useChoices } from "../filters/choices";
import { Breakdown } from "./breakdown";
import { Card } from "./cards";
import { Counted } from "./counted";
import { count, percent } from "./figures";
import { Loaded } from "./loaded";
import { useReport } from "./use-report";

/** What invitations led to. */
export default function Invitations() {
  const me = useMe();
  const choices = useChoices();
  const report = useReport("invitation");
  const name = (key: string) =>
    key === "-"
      ? t`not invited`
      : key === "hand"
        ? t`by hand`
        : (choices?.invitations.find((i) => i.id === key)?.name ?? t`a rule that is gone`);
  return (
    <Loaded report={report}>
      {({ rows, total }) => {
        const invited = rows.filter((r) => r.key !== "-");
        const chats = invited.reduce((n, r) => n + r.chats, 0);
        const sold = invited.reduce((n, r) => n + r.sold, 0);
        return (
          <>
            <div className="cards">
              <Card
                name={t`Chats that an invitation led to`}
                value={count(chats)}
                note={t`${percent(chats / Math.max(1, total.chats))} of all chats`}
              />
              <Card
                name={t`Of these with a sale`}
                value={count(sold)}
                note={t`of ${count(total.sold)} in all`}
              />
            </div>
            <Breakdown
              title={t`By invitation`}
              rows={rows}
              nameOf={name}
              filter="invited"
              columns={["answered", "missed", "handling", "sold", "sales", "rating"]}
            />
            <p className="none">
              {me.role === "admin" ? (
                <Link to="/setup/invitations">
                  <Trans>
                    How many saw an invitation, and how many wrote, beside those who were not invited
                  </Trans>
                </Link>
              ) : (
                <Trans>How many saw an invitation and did not write stands in Setup, Invitations.</Trans>
              )}
            </p>
            <Counted codes={["invitations", "answered", "sales", "rating"]} />
          </>
        );
      }}
    </Loaded>
  );
}
