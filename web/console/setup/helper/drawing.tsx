import { t } from "@lingui/core/macro";
import { useLayoutEffect, useRef, useState } from "react";

import type { Flow, FlowDrawing } from "../../../shared/types";
import { kindWords, stepGist } from "./steps";

// Smaller than this nobody reads it: then it is moved about instead.
const leastScale = 0.66;

// As core/flow draws them.
const width = 160;
const height = 46;

interface Props {
  flow: Flow;
  drawing: FlowDrawing;
  /** The step that is open in the list, and those on the way that was tried. */
  open: string;
  path: readonly string[];
  amiss: ReadonlySet<string>;
  pick: (id: string) => void;
}

/** A flow as a drawing: a box for each step, a line for each way; pressing a box opens its step. */
export function Drawing({ flow, drawing, open, path, amiss, pick }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [room, setRoom] = useState(0);
  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const watch = new ResizeObserver(() => setRoom(element.clientWidth));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  const scale = room > 0 ? Math.max(leastScale, Math.min(1, room / drawing.width)) : 1;
  const steps = new Map(flow.steps.map((s, i) => [s.id, { step: s, at: i + 1 }]));
  return (
    <div className="drawing" tabIndex={0} role="group" aria-label={t`Drawing of the flow`} ref={box}>
      <div className="sheet" style={{ width: drawing.width, height: drawing.height, zoom: scale }}>
        <svg
          width={drawing.width}
          height={drawing.height}
          viewBox={`0 0 ${drawing.width} ${drawing.height}`}
          aria-hidden="true"
        >
          <defs>
            <marker
              id="arrow"
              viewBox="0 0 8 8"
              refX="7"
              refY="4"
              markerWidth="7"
              markerHeight="7"
              orient="auto"
            >
              <path d="M0 0 8 4 0 8Z" />
            </marker>
          </defs>
          {drawing.lines.map((line, i) => {
            const [first] = line.corners;
            // Of many ways out of a step the words would stand on each other: they show when it is open.
            const crowded = drawing.lines.filter((l) => l.from === line.from).length > 2;
            const near = line.from === open;
            const label =
              line.label === "otherwise" ? t`otherwise` : line.label === "found" ? t`found` : line.label;
            return (
              <g
                key={i}
                className={`way ${line.back ? "back" : ""} ${line.label === "otherwise" ? "other" : ""} ${
                  line.from === open || line.to === open ? "near" : ""
                }`}
              >
                <path d={roundedPath(line.corners)} markerEnd="url(#arrow)" />
                {label && first && (!crowded || near) ? (
                  <text x={first.x + 4} y={first.y + 12 + (crowded ? 11 * placeOf(drawing, line) : 0)}>
                    {[...label].length > 14 ? `${[...label].slice(0, 13).join("")}…` : label}
                  </text>
                ) : null}
              </g>
            );
          })}
        </svg>
        {drawing.boxes.map((box) => {
          const known = steps.get(box.step);
          if (!known) return null;
          const { step, at } = known;
          return (
            <button
              key={box.step}
              className={`box kind-${step.kind} ${box.step === open ? "open" : ""} ${path.includes(box.step) ? "passed" : ""} ${
                box.lost ? "lost" : ""
              } ${amiss.has(box.step) ? "amiss" : ""}`}
              style={{ insetInlineStart: box.x, top: box.y, width, height }}
              aria-current={box.step === open}
              onClick={() => pick(box.step)}
            >
              <b>
                {at} · {kindWords(step.kind)}
              </b>
              <span className="cut">{stepGist(step)}</span>
            </button>
          );
        })}
      </div>
    </div>
  );
}

/** The place of a line among those that leave the same step. */
function placeOf(drawing: FlowDrawing, line: FlowDrawing["lines"][number]): number {
  return drawing.lines.filter((l) => l.from === line.from).indexOf(line);
}

const bend = 6;

/** A line through corners that are right angles, each of them rounded. */
export function roundedPath(corners: readonly { x: number; y: number }[]): string {
  let d = "";
  corners.forEach((p, i) => {
    const before = corners[i - 1];
    const after = corners[i + 1];
    if (!before) d += `M${p.x} ${p.y}`;
    else if (!after) d += `L${p.x} ${p.y}`;
    else {
      const into = towards(p, before);
      const out = towards(p, after);
      d += `L${into.x} ${into.y}Q${p.x} ${p.y} ${out.x} ${out.y}`;
    }
  });
  return d;
}

/** The point on the way from one corner to another where the bend begins: half of a short way at most. */
function towards(from: { x: number; y: number }, to: { x: number; y: number }) {
  const long = Math.hypot(to.x - from.x, to.y - from.y);
  if (long === 0) return from;
  const share = Math.min(bend, long / 2) / long;
  return { x: from.x + (to.x - from.x) * share, y: from.y + (to.y - from.y) * share };
}
