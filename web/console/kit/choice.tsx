import { useId, type ReactNode } from "react";

/** A box to tick with its words. */
export function Tick({
  checked,
  change,
  children,
}: {
  checked: boolean;
  change: (on: boolean) => void;
  children: ReactNode;
}) {
  return (
    <label className="tick">
      <input type="checkbox" checked={checked} onChange={(e) => change(e.target.checked)} />
      <span>{children}</span>
    </label>
  );
}

interface Props<T> {
  label: string;
  value: T | undefined;
  options: { value: T; words: ReactNode; disabled?: boolean }[];
  change: (value: T) => void;
}

/** One of a few, all of them in view. */
export function Choice<T extends string | number>({ label, value, options, change }: Props<T>) {
  const group = useId();
  return (
    <div role="radiogroup" aria-label={label} className="choices">
      {options.map((o) => (
        <label key={o.value} className={o.disabled ? "off" : ""}>
          <input
            type="radio"
            name={group}
            checked={value === o.value}
            disabled={o.disabled}
            onChange={() => change(o.value)}
          />
          {o.words}
        </label>
      ))}
    </div>
  );
}
