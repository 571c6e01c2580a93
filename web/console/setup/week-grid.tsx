import { t } from "@lingui/core/macro";
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";

import { dayName, inMinutes, lengthOf, toClock, type Period, weekDays } from "./week";

interface Props {
  weekly: Period[];
  change: (weekly: Period[]) => void;
}

interface Drag {
  /** Index of the period that is dragged. */
  index: number;
  part: "from" | "to" | "all";
  /** Where the pointer went down, in minutes of its day. */
  start: number;
  kept: Period;
}

const step = 15;
const day = 24 * 60;

/**
 * The week as seven columns. Dragging over empty time makes a period, dragging
 * a period moves it, dragging its ends makes it longer or shorter. With the
 * keyboard, arrows move a period and Shift with arrows its end.
 */
export function WeekGrid({ weekly, change }: Props) {
  const grid = useRef<HTMLDivElement>(null);
  const [drag, setDrag] = useState<Drag | null>(null);

  const minuteAt = (event: PointerEvent): number => {
    const column = grid.current?.querySelector(".column");
    const box = column?.getBoundingClientRect();
    if (!box) return 0;
    const minute = ((event.clientY - box.top) / box.height) * day;
    return Math.max(0, Math.min(day, Math.round(minute / step) * step));
  };
  const replace = (index: number, period: Period) => change(weekly.map((p, i) => (i === index ? period : p)));

  const begin = (event: PointerEvent, index: number, part: Drag["part"]) => {
    const kept = weekly[index];
    if (!kept || event.button !== 0) return;
    event.preventDefault();
    event.stopPropagation();
    grid.current?.setPointerCapture(event.pointerId);
    setDrag({ index, part, start: minuteAt(event), kept });
  };
  const beginNew = (event: PointerEvent, weekday: number) => {
    if (event.button !== 0) return;
    event.preventDefault();
    grid.current?.setPointerCapture(event.pointerId);
    const from = Math.min(minuteAt(event), day - step);
    const kept = { day: weekday, from: toClock(from), to: toClock(from + step) };
    setDrag({ index: weekly.length, part: "to", start: from + step, kept });
    change([...weekly, kept]);
  };
  const move = (event: PointerEvent) => {
    if (!drag) return;
    const moved = minuteAt(event) - drag.start;
    const from = inMinutes(drag.kept.from);
    const to = from + lengthOf(drag.kept);
    if (drag.part === "from")
      replace(drag.index, span(drag.kept, clamp(from + moved, to - day, to - step), to));
    if (drag.part === "to")
      replace(drag.index, span(drag.kept, from, clamp(to + moved, from + step, from + day)));
    if (drag.part === "all") {
      const shift = clamp(moved, -from, day - step - from);
      replace(drag.index, span(drag.kept, from + shift, to + shift));
    }
  };
  const onKey = (event: KeyboardEvent, index: number) => {
    const period = weekly[index];
    if (!period) return;
    if (event.key === "Delete" || event.key === "Backspace") {
      event.preventDefault();
      change(weekly.filter((_, i) => i !== index));
      return;
    }
    const by = event.key === "ArrowDown" ? step : event.key === "ArrowUp" ? -step : 0;
    if (by === 0) return;
    event.preventDefault();
    const from = inMinutes(period.from);
    const to = from + lengthOf(period);
    if (event.shiftKey) replace(index, span(period, from, clamp(to + by, from + step, from + day)));
    else if (from + by >= 0 && from + by < day) replace(index, span(period, from + by, to + by));
  };

  return (
    <div
      className="week"
      ref={grid}
      onPointerMove={move}
      onPointerUp={() => setDrag(null)}
      onPointerCancel={() => setDrag(null)}
    >
      <div className="scale" aria-hidden="true">
        {[0, 3, 6, 9, 12, 15, 18, 21, 24].map((h) => (
          <span key={h} style={{ top: `${(h / 24) * 100}%` }}>
            {String(h).padStart(2, "0")}
          </span>
        ))}
      </div>
      {weekDays.map((weekday) => (
        <div className="day" key={weekday}>
          <h4>{dayName(weekday, "short")}</h4>
          <div
            className="column"
            role="group"
            aria-label={dayName(weekday)}
            onPointerDown={(e) => beginNew(e, weekday)}
          >
            {weekly.map((p, i) => (
              <Block key={i} period={p} weekday={weekday} index={i} begin={begin} onKey={onKey} />
            ))}
          </div>
        </div>
      ))}
    </div>
  );
}

interface BlockProps {
  period: Period;
  weekday: number;
  index: number;
  begin: (event: PointerEvent, index: number, part: Drag["part"]) => void;
  onKey: (event: KeyboardEvent, index: number) => void;
}

/** A period in the column of its day, or its tail after midnight in the next. */
function Block({ period, weekday, index, begin, onKey }: BlockProps) {
  const from = inMinutes(period.from);
  const to = from + lengthOf(period);
  const words = t`${dayName(period.day)} ${period.from} to ${period.to}`;
  if (weekday === (period.day + 1) % 7 && to > day) {
    return (
      <div className="block tail" style={{ top: 0, height: `${((to - day) / day) * 100}%` }} title={words} />
    );
  }
  if (weekday !== period.day) return null;
  const end = Math.min(to, day);
  return (
    <div
      className="block"
      role="button"
      tabIndex={0}
      aria-label={t`${words}. Arrows move it, Shift with arrows moves its end, Delete removes it.`}
      style={{ top: `${(from / day) * 100}%`, height: `${((end - from) / day) * 100}%` }}
      onPointerDown={(e) => begin(e, index, "all")}
      onKeyDown={(e) => onKey(e, index)}
    >
      <i className="edge upper" onPointerDown={(e) => begin(e, index, "from")} />
      <span>{t`${period.from} to ${period.to}`}</span>
      <i className="edge lower" onPointerDown={(e) => begin(e, index, "to")} />
    </div>
  );
}

function clamp(value: number, low: number, high: number): number {
  return Math.max(low, Math.min(high, value));
}

function span(period: Period, from: number, to: number): Period {
  if (from < 0) return { ...period, from: toClock(0), to: toClock(to) };
  return { ...period, from: toClock(from), to: to > day ? toClock(to - day) : toClock(to) };
}
