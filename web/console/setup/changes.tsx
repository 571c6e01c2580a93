import "./changes.css";

import { plural, t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, ask } from "../../shared/api";
import { dayAndTime } from "../../shared/format";
import type { ChangeView } from "../../shared/types";
import { Icons } from "../icons";
import { Button } from "../kit/button";
import { DateField } from "../kit/date-field";
import { Select } from "../kit/select";
import { LoadTrouble } from "../kit/states";
import { settingKind } from "../words/settings";

/** How many of a change's parts are shown before all are asked for. */
const few = 6;

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
            <Change key={c.id} change={c} />
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

function Change({ change: c }: { change: ChangeView }) {
  const [whole, setWhole] = useState(false);
  const shown = whole ? c.parts : c.parts.slice(0, few);
  const rest = c.parts.length - shown.length;
  return (
    <li>
      <p>
        <b>
          {settingKind(c.kind)} {c.name ? <bdi>{c.name}</bdi> : null}
        </b>{" "}
        {c.act === "made" ? t`made` : c.act === "removed" ? t`removed` : t`changed`} ·{" "}
        {c.by || t`by a command`} · <time dateTime={c.at}>{dayAndTime(c.at)}</time>
      </p>
      {c.act === "removed" ? null : (
        <table>
          <tbody>
            {shown.map((p) => (
              <tr key={p.path}>
                <th scope="row">
                  <code>{p.path}</code>
                </th>
                {p.path === "password" ? (
                  <td colSpan={2}>
                    <Trans>set anew</Trans>
                  </td>
                ) : (
                  <>
                    <td dir="auto">{p.before ? <del>{p.before}</del> : null}</td>
                    <td dir="auto">{p.after ? <ins>{p.after}</ins> : null}</td>
                  </>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {rest > 0 && c.act !== "removed" ? (
        <button className="as-link" onClick={() => setWhole(true)}>
          {plural(rest, { one: "Show # more value", other: "Show # more values" })}
        </button>
      ) : null}
    </li>
  );
}
