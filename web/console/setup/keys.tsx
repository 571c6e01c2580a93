import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { dayShort, isoDay } from "../../shared/days";
import { dayAndTime } from "../../shared/format";
import type { KeyMade, KeyView } from "../../shared/types";
import { useNow } from "../desk/provider";
import { useSaving } from "../forms/saving";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { Tick } from "../kit/choice";
import { Confirm } from "../kit/confirm";
import { TextInput } from "../kit/field";
import { say, sayTrouble } from "../kit/say";
import { Select } from "../kit/select";
import { LoadTrouble, Wrong } from "../kit/states";
import { Table } from "../kit/table";

type Scope = "transcripts" | "contacts" | "reports";

const scopes: { value: Scope; label: string }[] = [
  { value: "transcripts", label: t`Transcripts` },
  { value: "contacts", label: t`Contacts` },
  { value: "reports", label: t`Reports` },
];

/** The keys by which other programs read transcripts, contacts and reports. */
export function KeysPage() {
  const queries = useQueryClient();
  const saving = useSaving();
  const { wrongAt } = saving;
  const keys = useQuery({ queryKey: ["keys"], queryFn: () => ask(api.GET("/api/keys")) });
  const [name, setName] = useState("");
  const [may, setMay] = useState<Scope[]>([]);
  const [days, setDays] = useState("365");
  const [made, setMade] = useState<KeyMade>();
  const [revoking, setRevoking] = useState<KeyView>();
  if (keys.isError) return <LoadTrouble error={keys.error} again={() => void keys.refetch()} />;
  if (!keys.data) return <section className="loading" aria-busy="true" />;
  const again = () => queries.invalidateQueries({ queryKey: ["keys"] });
  const make = () =>
    void saving.run(
      async () => {
        const body = { name, scopes: may, days: Number(days) };
        setMade(await ask(api.POST("/api/keys", { body })));
        setName("");
        setMay([]);
        await again();
      },
      t`Key made`,
    );
  const revoke = (key: KeyView) => {
    setRevoking(undefined);
    ask(api.DELETE("/api/keys/{id}", { params: { path: { id: key.id } } }))
      .then(() => say(t`${key.name} can read nothing any more`, "success"), sayTrouble)
      .finally(() => void again());
  };
  return (
    <section className="editor" aria-label={t`API keys`}>
      <header>
        <h2>
          <Trans>API keys</Trans>
        </h2>
      </header>
      <div className="body">
        <p>
          <Trans>
            Other programs read with a key, and change nothing. What they can ask is described at{" "}
            <a href="/api/v1/openapi.json">/api/v1/openapi.json</a>.
          </Trans>
        </p>
        {made ? (
          <div className="key-made" role="status">
            <p>
              <Trans>
                The key of {made.name}. It is shown this once: keep it where that program keeps its secrets.
              </Trans>
            </p>
            <code>{made.key}</code>
            <span className="acts">
              <Button
                variant="outlined"
                startIcon={<Icons.Copy />}
                onClick={() => {
                  navigator.clipboard.writeText(made.key).then(() => say(t`Copied`, "success"), sayTrouble);
                }}
              >
                <Trans>Copy</Trans>
              </Button>
              <Button onClick={() => setMade(undefined)}>
                <Trans>I have it</Trans>
              </Button>
            </span>
          </div>
        ) : null}
        <h3>
          <Trans>Make a key</Trans>
        </h3>
        <form
          onSubmit={(e) => {
            e.preventDefault();
            make();
          }}
        >
          <div className="fields">
            <TextInput
              label={t`For which program`}
              value={name}
              change={setName}
              most={120}
              wrong={wrongAt("name")}
            />
            <Select
              label={t`Expires`}
              value={days}
              change={setDays}
              options={[
                { value: "30", label: t`in 30 days` },
                { value: "90", label: t`in 90 days` },
                { value: "365", label: t`in a year` },
                { value: "0", label: t`never` },
              ]}
            />
          </div>
          <fieldset className="key-scopes">
            <legend>
              <Trans>It may read</Trans>
            </legend>
            {scopes.map((s) => (
              <Tick
                key={s.value}
                checked={may.includes(s.value)}
                change={(on) => setMay(on ? [...may, s.value] : may.filter((v) => v !== s.value))}
              >
                {s.label}
              </Tick>
            ))}
            <Wrong words={wrongAt("scopes")} />
          </fieldset>
          <Button type="submit" variant="contained" disabled={saving.busy}>
            <Trans>Make the key</Trans>
          </Button>
          <Wrong words={saving.trouble || undefined} />
        </form>
        <h3>
          <Trans>Keys</Trans>
        </h3>
        {keys.data.length === 0 ? (
          <p className="nothing">
            <Trans>None yet.</Trans>
          </p>
        ) : (
          <Table
            className="bans keys"
            rows={keys.data}
            keyOf={(k) => k.id}
            columns={[
              { head: t`For`, cell: (k) => <bdi>{k.name}</bdi> },
              { head: t`Begins with`, cell: (k) => <code>{k.shown}…</code> },
              {
                head: t`May read`,
                cell: (k) =>
                  k.scopes.map((s) => scopes.find((known) => known.value === s)?.label ?? s).join(", "),
              },
              { head: t`Made`, cell: (k) => t`${dayShort(isoDay(k.createdAt))} by ${k.createdBy}` },
              { head: t`Last used`, cell: (k) => (k.lastUsedAt ? dayAndTime(k.lastUsedAt) : t`never`) },
              { head: t`Until`, cell: (k) => <Until of={k} /> },
              {
                head: t`Revoke`,
                silent: true,
                cell: (k) =>
                  k.revokedAt ? null : (
                    <Button onClick={() => setRevoking(k)} aria-label={t`Revoke the key of ${k.name}`}>
                      <Trans>Revoke</Trans>
                    </Button>
                  ),
              },
            ]}
          />
        )}
      </div>
      {revoking ? (
        <Confirm
          title={t`Revoke the key of ${revoking.name}?`}
          yes={t`Revoke`}
          no={t`Keep it`}
          grave
          onYes={() => revoke(revoking)}
          onNo={() => setRevoking(undefined)}
        >
          <p>
            <Trans>The program that uses it can read nothing from now on. This cannot be undone.</Trans>
          </p>
        </Confirm>
      ) : null}
    </section>
  );
}

/** Until when a key holds, in words and not by colour alone. */
function Until({ of }: { of: KeyView }) {
  const now = useNow();
  if (of.revokedAt) return <>{t`revoked ${dayShort(isoDay(of.revokedAt))}`}</>;
  if (!of.expiresAt) return <>{t`it is revoked`}</>;
  const day = dayShort(isoDay(of.expiresAt));
  return <>{Date.parse(of.expiresAt) < now ? t`expired ${day}` : day}</>;
}
