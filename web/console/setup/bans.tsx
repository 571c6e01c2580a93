import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import type { BanView } from "../../shared/types";
import { useSaving } from "../forms/saving";
import { Button } from "../kit/button";
import { TextInput } from "../kit/field";
import { Select } from "../kit/select";
import { LoadTrouble, Wrong } from "../kit/states";
import { Table } from "../kit/table";

/** Who is shut out: visitors banned from their chat, and networks. */
export function BansPage() {
  const queries = useQueryClient();
  const saving = useSaving();
  const { wrongAt } = saving;
  const bans = useQuery({ queryKey: ["bans"], queryFn: () => ask(api.GET("/api/bans")) });
  const [network, setNetwork] = useState("");
  const [reason, setReason] = useState("");
  const [hours, setHours] = useState("24");
  if (bans.isError) return <LoadTrouble error={bans.error} again={() => void bans.refetch()} />;
  if (!bans.data) return <section className="loading" aria-busy="true" />;
  const again = () => queries.invalidateQueries({ queryKey: ["bans"] });
  const add = () =>
    void saving.run(
      async () => {
        await ask(api.POST("/api/bans", { body: { network: network.trim(), reason, hours: Number(hours) } }));
        // What was typed meanwhile is the next one.
        setNetwork((now) => (now === network ? "" : now));
        setReason((now) => (now === reason ? "" : now));
        await again();
      },
      t`${network} banned`,
    );
  const lift = (id: string, name: string) =>
    void saving.run(
      async () => {
        await ask(api.DELETE("/api/bans/{id}", { params: { path: { id } } }));
        await again();
      },
      t`Ban on ${name} lifted`,
    );
  return (
    <section className="editor" aria-label={t`Bans`}>
      <header>
        <h2>
          <Trans>Bans</Trans>
        </h2>
      </header>
      <div className="body">
        <p>
          <Trans>
            Visitors are banned from their chat, under More. Here a whole network can be shut out, and bans
            are lifted.
          </Trans>
        </p>
        <form
          className="fields ban"
          onSubmit={(e) => {
            e.preventDefault();
            add();
          }}
        >
          <TextInput
            label={t`Address or range`}
            value={network}
            placeholder="192.0.2.0/24"
            change={setNetwork}
            wrong={wrongAt("network")}
            hint={t`Everyone from there, including open chats`}
            most={50}
          />
          <TextInput
            label={t`Reason`}
            value={reason}
            change={setReason}
            wrong={wrongAt("reason")}
            hint={t`For colleagues; visitors do not see it`}
            most={300}
          />
          <Select
            label={t`For how long`}
            value={hours}
            change={setHours}
            options={[
              { value: "1", label: t`an hour` },
              { value: "24", label: t`a day` },
              { value: "168", label: t`a week` },
              { value: "720", label: t`30 days` },
              { value: "0", label: t`until it is lifted` },
            ]}
          />
          <Button type="submit" variant="outlined" disabled={saving.busy || !network.trim()}>
            <Trans>Ban</Trans>
          </Button>
        </form>
        <Wrong words={saving.trouble} />
        {bans.data.length === 0 ? (
          <p className="nothing">
            <Trans>No bans.</Trans>
          </p>
        ) : null}
        {bans.data.length > 0 ? (
          <Table
            className="bans"
            rows={bans.data}
            keyOf={(b) => b.id}
            rowClass={(b) => (b.holds ? "" : "over")}
            columns={[
              { head: t`Who`, cell: (b) => <bdi>{whoOf(b)}</bdi> },
              { head: t`Why`, cell: (b) => <span dir="auto">{b.reason}</span> },
              { head: t`By`, cell: (b) => `${b.by}, ${dayAndTime(b.createdAt)}` },
              { head: t`Until`, cell: untilWords },
              {
                head: t`Lift`,
                silent: true,
                cell: (b) =>
                  b.holds ? (
                    <Button variant="outlined" onClick={() => lift(b.id, whoOf(b))}>
                      <Trans>Lift</Trans>
                    </Button>
                  ) : null,
              },
            ]}
          />
        ) : null}
      </div>
    </section>
  );
}

/** Names who is banned. */
function whoOf(ban: BanView): string {
  return ban.network || ban.name || t`Unnamed visitor`;
}

/** Says until when a ban holds, or how it ended. */
function untilWords(ban: BanView): string {
  if (ban.liftedAt) return t`lifted ${dayAndTime(ban.liftedAt)}`;
  if (!ban.until) return t`somebody lifts it`;
  return ban.holds ? dayAndTime(ban.until) : t`ended ${dayAndTime(ban.until)}`;
}
