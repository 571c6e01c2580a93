import { useRef } from "react";

interface Props {
  label: string;
  /** The size that is changed, in pixels or percent. */
  value: number;
  min: number;
  max: number;
  /** How many pixels of the pointer make one unit. */
  scale?: number;
  /** Moving it onwards, in the direction of reading, makes it smaller. */
  reversed?: boolean;
  onChange: (value: number) => void;
}

/** The edge between two panes, which can be moved with the pointer or the arrow keys. */
export function PaneEdge({ label, value, min, max, scale = 1, reversed = false, onChange }: Props) {
  const from = useRef<{ x: number; value: number } | undefined>(undefined);
  const set = (next: number) => onChange(Math.round(Math.min(max, Math.max(min, next))));
  // To the right is onwards, unless what is read runs to the left.
  const sign = reversed === (document.dir === "rtl") ? 1 : -1;
  return (
    <div
      className="resizer"
      role="separator"
      aria-orientation="vertical"
      aria-label={label}
      aria-valuenow={Math.round(value)}
      aria-valuemin={min}
      aria-valuemax={max}
      tabIndex={0}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        from.current = { x: e.clientX, value };
      }}
      onPointerMove={(e) => {
        if (from.current) set(from.current.value + (sign * (e.clientX - from.current.x)) / scale);
      }}
      onPointerUp={() => (from.current = undefined)}
      onPointerCancel={() => (from.current = undefined)}
      onKeyDown={(e) => {
        const step = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
        if (step === 0 || e.altKey) return;
        e.preventDefault();
        set(value + (sign * step * 16) / scale);
      }}
    />
  );
}
