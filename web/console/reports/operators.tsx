import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, ask } from "../../shared/api";
import { initials } from "../../shared/format";
import type { OperatorRow } from "../../shared/types";
import { chatsBehind } from "../filters/asked";
import { useChoices } from "../filters/choices";
import { LoadTrouble } from "../kit/states";
import { Counted } from "./counted";
import { count, enough, one, seconds, shareWords } from "./figures";
import { useAsked, useBehind } from "./use-report";

/** Who held how many chats, how fast, how many at once, and of what kind: to be read together. */
export function OperatorsTable({ brief = false }: { brief?: boolean }) {
  const { asked } = useAsked();
  const behind = useBehind();
  const choices = useChoices();
  const [sorted, setSorted] = useState("chats");
  const report = useQuery({
    queryKey: ["report-operators", asked],
    queryFn: () => ask(api.GET("/api/reports/operators", { params: { query: asked } })),
    placeholderData: keepPreviousData,
  });
  if (report.isError) return <LoadTrouble error={report.error} again={() => void report.refetch()} />;
  const all = columns();
  const shown = brief
    ? all.filter((c) => ["chats", "first", "handling", "atOnce", "rating"].includes(c.id))
    : all;
  const by = all.find((c) => c.id === sorted)?.by ?? ((r: OperatorRow) => r.chats);
  const rows = [...(report.data?.rows ?? [])].sort((a, b) => by(b) - by(a));
  const departmentName = (id: string) => choices?.departments.find((d) => d.id === id)?.name ?? t`none`;
  return (
    <section className="sheet operators">
      <h2>
        <Trans>Operators</Trans>
      </h2>
      {report.isSuccess && rows.length === 0 ? (
        <p className="none">
          <Trans>Nobody held a chat in this period.</Trans>
        </p>
      ) : (
        <div className="scroll-x">
          <table className="breakdown">
            <thead>
              <tr>
                <th scope="col">
                  <span className="sr-only">
                    <Trans>Operator</Trans>
                  </span>
                </th>
                {shown.map((c) => (
                  <th
                    key={c.id}
                    scope="col"
                    className="number"
                    aria-sort={sorted === c.id ? "descending" : "none"}
                  >
                    <button onClick={() => setSorted(c.id)}>{c.head}</button>
                  </th>
                ))}
                {brief ? null : (
                  <th scope="col">
                    <Trans>Their chats</Trans>
                  </th>
                )}
              </tr>
            </thead>
            <tbody>
              {rows.map((row) => (
                <tr key={row.operatorId}>
                  <th scope="row">
                    <span className="plate" aria-hidden="true">
                      {initials(row.name)}
                    </span>
                    <bdi>{row.name}</bdi>
                    {row.gone ? (
                      <small>
                        {" "}
                        <Trans>left the team</Trans>
                      </small>
                    ) : null}
                  </th>
                  {shown.map((c) => (
                    <td key={c.id} className="number">
                      {c.id === "chats" ? (
                        <Link to={chatsBehind(behind, { operator: row.operatorId })}>{c.say(row)}</Link>
                      ) : (
                        c.say(row)
                      )}
                    </td>
                  ))}
                  {brief ? null : (
                    <td className="mix">
                      {row.mix
                        .map((p) => `${departmentName(p.departmentId)} ${count(p.chats)}`)
                        .concat(row.messages > 0 ? [t`messages ${count(row.messages)}`] : [])
                        .join(" · ")}
                    </td>
                  )}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {brief || !report.data ? null : (
        <>
          <p className="none">
            <Trans>
              {count(report.data.chats)} chats were held, by {count(report.data.held)} holdings: one that was
              handed on counts for each who held it. Read speed beside how many were held at once and which
              chats they were: who holds three at a time of a hard kind is slower in each and does more.
            </Trans>
          </p>
          <Counted
            codes={[
              "operators",
              "first-reply",
              "replies-in-target",
              "handling",
              "at-once",
              "own-time",
              "rating",
              "interval",
            ]}
          />
        </>
      )}
    </section>
  );
}

interface Column {
  id: string;
  head: string;
  say: (row: OperatorRow) => string;
  by: (row: OperatorRow) => number;
}

function columns(): Column[] {
  return [
    { id: "chats", head: t`Chats`, say: (r) => count(r.chats), by: (r) => r.chats },
    {
      id: "first",
      head: t`First words`,
      say: (r) => (r.first.n < enough ? "–" : seconds(r.first.median)),
      by: (r) => r.first.median ?? 0,
    },
    { id: "onTime", head: t`Replies in target`, say: (r) => shareWords(r.onTime), by: (r) => r.onTime.share },
    { id: "handling", head: t`Handling`, say: (r) => seconds(r.handling), by: (r) => r.handling ?? 0 },
    {
      id: "atOnce",
      head: t`At once`,
      say: (r) => (r.atOnce === undefined ? "–" : one(r.atOnce)),
      by: (r) => r.atOnce ?? 0,
    },
    { id: "ownTime", head: t`Own time`, say: (r) => seconds(r.ownTime), by: (r) => r.ownTime ?? 0 },
    { id: "gave", head: t`Gave away`, say: (r) => count(r.gave), by: (r) => r.gave },
    { id: "got", head: t`Handed to them`, say: (r) => count(r.got), by: (r) => r.got },
    {
      id: "rating",
      head: t`Rating`,
      say: (r) => (r.good.of < enough ? (r.good.of === 0 ? "–" : t`few`) : one(r.rating ?? 0)),
      by: (r) => r.rating ?? 0,
    },
    { id: "good", head: t`Good`, say: (r) => shareWords(r.good), by: (r) => r.good.share },
  ];
}
