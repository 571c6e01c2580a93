import { t } from "@lingui/core/macro";
import { Trans } from "@lingui/react/macro";
import { useRef, type KeyboardEvent } from "react";
import { Link } from "react-router";

import type { ReportRow } from "../../shared/types";
import { chatsBehind } from "../filters/asked";
import { count } from "./figures";
import { useBehind } from "./use-report";
import { weekdayName } from "./weekday";

/** Chats by weekday and hour: the darker, the more. Arrow keys go from cell to cell. */
export function Heat({ rows }: { rows: ReportRow[] }) {
  const behind = useBehind();
  const grid = useRef<HTMLTableElement>(null);
  const of = (day: number, hour: number) =>
    rows.find((r) => r.key === `${day} ${String(hour).padStart(2, "0")}`);
  const busy = [...Array(24).keys()].filter((hour) =>
    rows.some((r) => r.chats > 0 && Number(r.key.slice(2)) === hour),
  );
  const first = busy[0] ?? 8;
  const last = busy.at(-1) ?? 18;
  const hours = [...Array(last - first + 1).keys()].map((h) => h + first);
  const most = Math.max(1, ...rows.map((r) => r.chats));
  const go = (event: KeyboardEvent) => {
    const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[event.key];
    const at = (event.target as HTMLElement).dataset["cell"]?.split(" ").map(Number);
    if (!step || !at) return;
    event.preventDefault();
    const [day = 0, hour = 0] = at.map((n, i) => n + (step[i] ?? 0));
    grid.current?.querySelector<HTMLElement>(`[data-cell="${day} ${hour}"]`)?.focus();
  };
  return (
    <table className="heat" ref={grid} onKeyDown={go}>
      <thead>
        <tr>
          <th scope="col">
            <span className="sr-only">
              <Trans>Day</Trans>
            </span>
          </th>
          {hours.map((hour) => (
            <th scope="col" key={hour}>
              {hour}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {[1, 2, 3, 4, 5, 6, 7].map((day) => (
          <tr key={day}>
            <th scope="row">{weekdayName(day)}</th>
            {hours.map((hour) => {
              const cell = of(day, hour);
              const n = cell?.chats ?? 0;
              const late = cell ? cell.missed : 0;
              return (
                <td key={hour} className={`step-${step(n, most)}`}>
                  <Link
                    to={chatsBehind(behind, { weekday: String(day), hour: String(hour) })}
                    data-cell={`${day} ${hour}`}
                    tabIndex={day === 1 && hour === hours[0] ? 0 : -1}
                    title={t`${weekdayName(day, "long")}, ${hour}:00 to ${hour + 1}:00: ${count(n)} chats, ${count(late)} missed`}
                  >
                    {n}
                  </Link>
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** In which of six steps of darkness a number is. */
function step(n: number, most: number): number {
  return n === 0 ? 1 : Math.min(6, 2 + Math.floor((n / most) * 4.999));
}
