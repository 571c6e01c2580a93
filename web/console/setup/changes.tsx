import "./changes.css";

import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { DateField } from "../kit/date-field";
import { Select } from "../kit/select";
import { LoadTrouble } from "../kit/states";
import { settingKind } from "../words/settings";
import { ChangeShown } from "./change-shown";

/** Who changed what of the set-up, with what was there before and after. */
export function ChangesPage() {
  const [kind, setKind] = useState("");
  const [by, setBy] = useState("");
  const [from, setFrom] = useState("");
  const [to, setTo] = useState("");
  const asked = {
    ...(kind ? { kind } : {}),
    ...(by ? { by } : {}),
    ...(from ? { from: startOf(from, 0) } : {}),
    ...(to ? { to: startOf(to, 1) } : {}),
  };
  const people = useQuery({
    queryKey: ["setup", "people"],
    queryFn: () => ask(api.GET("/api/setup/people")),
  });
  const changes = useInfiniteQuery({
    queryKey: ["setup", "changes", asked],
    queryFn: ({ pageParam }) =>
      ask(
        api.GET("/api/setup/changes", {
          params: { query: { ...asked, ...(pageParam ? { before: pageParam } : {}) } },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (last) => (last.more ? last.changes.at(-1)?.id : undefined),
  });
  if (changes.isError) return <LoadTrouble error={changes.error} again={() => void changes.refetch()} />;
  const pages = changes.data?.pages;
  const all = pages?.flatMap((p) => p.changes) ?? [];
  const filtered = Object.keys(asked).length > 0;
  return (
    <section className="editor changes" aria-label={t`Changes`}>
      <header>
        <h2>
          <Trans>Changes of the set-up</Trans>
        </h2>
        <Button
          href={`/api/setup/changes/export?${new URLSearchParams(asked).toString()}`}
          startIcon={<Icons.Download />}
        >
          <Trans>Export as CSV</Trans>
        </Button>
      </header>
      <div className="body">
        <div className="row filters">
          <Select
            label={t`What`}
            value={kind}
            change={setKind}
            options={[
              { value: "", label: t`everything` },
              ...(pages?.[0]?.kinds ?? (kind ? [kind] : [])).map((k) => ({
                value: k,
                label: settingKind(k),
              })),
            ]}
          />
          <Select
            label={t`By`}
            value={by}
            change={setBy}
            options={[
              { value: "", label: t`everybody` },
              ...(people.data ?? []).map((p) => ({ value: p.id ?? "", label: p.name })),
            ]}
          />
          <label>
            <Trans>from</Trans> <DateField label={t`From`} value={from} change={setFrom} />
          </label>
          <label>
            <Trans>to</Trans> <DateField label={t`To`} value={to} change={setTo} />
          </label>
        </div>
        {pages && all.length === 0 ? (
          <p className="nothing">
            {filtered ? t`No change fits these filters.` : t`Nothing was changed yet.`}
          </p>
        ) : null}
        <ol className="change-list">
          {all.map((c) => (
            <ChangeShown key={c.id} change={c} />
          ))}
        </ol>
        {changes.hasNextPage ? (
          <Button
            variant="outlined"
            disabled={changes.isFetchingNextPage}
            onClick={() => void changes.fetchNextPage()}
          >
            <Trans>Show earlier changes</Trans>
          </Button>
        ) : null}
      </div>
    </section>
  );
}

/** Returns when a day begins here, or the one behind it. */
function startOf(day: string, later: number): string {
  const [year = 0, month = 1, date = 1] = day.split("-").map(Number);
  return new Date(year, month - 1, date + later).toISOString();
}
