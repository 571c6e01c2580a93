import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useState } from "react";
import { Link } from "react-router";

import type { ReportRow } from "../../shared/types";
import { chatsBehind, type Name } from "../filters/asked";
import { amountWords, count, enough, one, percent, seconds, shareWords } from "./figures";
import { useBehind } from "./use-report";

/** A figure of a row: how it is said, and by what rows are sorted. */
interface Measure {
  head: string;
  say: (row: ReportRow) => string;
  by: (row: ReportRow) => number;
}

function measures(): Record<string, Measure> {
  return {
    answered: {
      head: t`Answered`,
      say: (r) =>
        r.chats === 0 ? "–" : r.chats < enough ? count(r.answered) : percent(r.answered / r.chats),
      by: (r) => r.answered / Math.max(1, r.chats),
    },
    missed: { head: t`Missed`, say: (r) => count(r.missed), by: (r) => r.missed },
    target: { head: t`In target`, say: (r) => shareWords(r.inTarget), by: (r) => r.inTarget.share },
    wait: {
      head: t`Wait, median`,
      say: (r) => (r.wait.n < enough ? "–" : seconds(r.wait.median)),
      by: (r) => r.wait.median ?? 0,
    },
    first: {
      head: t`First reply`,
      say: (r) => (r.first.n < enough ? "–" : seconds(r.first.median)),
      by: (r) => r.first.median ?? 0,
    },
    handling: { head: t`Handling`, say: (r) => seconds(r.handling), by: (r) => r.handling ?? 0 },
    handedOn: { head: t`Handed on`, say: (r) => count(r.handedOn), by: (r) => r.handedOn },
    rating: {
      head: t`Rating`,
      say: (r) => (r.good.of < enough ? (r.good.of === 0 ? "–" : t`few`) : one(r.rating ?? 0)),
      by: (r) => r.rating ?? 0,
    },
    good: { head: t`Good`, say: (r) => shareWords(r.good), by: (r) => r.good.share },
    rated: {
      head: t`Rated`,
      say: (r) => (r.asked === 0 ? "–" : t`${count(r.good.of)} of ${count(r.asked)}`),
      by: (r) => r.good.of,
    },
    sold: { head: t`With a sale`, say: (r) => count(r.sold), by: (r) => r.sold },
    sales: { head: t`Sales`, say: (r) => amountWords(r.sales), by: (r) => r.sales[0]?.cents ?? 0 },
  };
}

interface Props {
  title: string;
  rows: ReportRow[];
  nameOf: (key: string) => string;
  /** By what the address is narrowed to a row. */
  filter: Name;
  columns: string[];
  /** More rows than are shown were counted. */
  cut?: boolean;
}

/** What the chats of each part add up to, sorted by a figure of one's choice; each leads to its chats. */
export function Breakdown({ title, rows, nameOf, filter, columns, cut = false }: Props) {
  const [sorted, setSorted] = useState("chats");
  const behind = useBehind();
  const all = measures();
  const by = all[sorted]?.by ?? ((r: ReportRow) => r.chats);
  const list = rows.filter((r) => r.chats > 0).sort((a, b) => by(b) - by(a));
  const most = Math.max(1, ...list.map((r) => r.chats));
  const head = (id: string, words: string) => (
    <th key={id} scope="col" aria-sort={sorted === id ? "descending" : "none"} className="number">
      <button onClick={() => setSorted(id)}>{words}</button>
    </th>
  );
  return (
    <section className="sheet">
      <h2>{title}</h2>
      {list.length === 0 ? (
        <p className="none">
          <Trans>No chats in this period.</Trans>
        </p>
      ) : (
        <div className="scroll-x">
          <table className="breakdown">
            <thead>
              <tr>
                <th scope="col">
                  <span className="sr-only">{title}</span>
                </th>
                {head("chats", t`Chats`)}
                {columns.map((id) => head(id, all[id]?.head ?? id))}
              </tr>
            </thead>
            <tbody>
              {list.map((row) => (
                <tr key={row.key}>
                  <th scope="row">
                    <bdi>{nameOf(row.key)}</bdi>
                  </th>
                  <td className="number with-bar">
                    <i style={{ inlineSize: `${(100 * row.chats) / most}%` }} aria-hidden="true" />
                    <Link to={chatsBehind(behind, { [filter]: row.key })}>{count(row.chats)}</Link>
                  </td>
                  {columns.map((id) => (
                    <td key={id} className="number">
                      {all[id]?.say(row)}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {cut ? (
        <p className="none">
          <Trans>The {rows.length} with the most chats are shown.</Trans>
        </p>
      ) : null}
    </section>
  );
}
