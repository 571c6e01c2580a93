import { useEffect, useRef, type ReactNode } from "react";

import { useWindows } from "./provider";

interface Props {
  id: string;
  className?: string;
  children: ReactNode;
}

/** A card of the line. The one that a link led to is marked, in view, and has the keyboard. */
export function Card({ id, className, children }: Props) {
  const led = useWindows((s) => (s.ledTo?.id === id ? s.ledTo : undefined));
  const item = useRef<HTMLLIElement>(null);
  useEffect(() => {
    if (!led) return;
    item.current?.scrollIntoView({ block: "nearest" });
    if (led.keyboard) item.current?.querySelector<HTMLElement>("button:enabled")?.focus();
  }, [led]);
  return (
    <li ref={item} className={className} aria-current={led && "true"}>
      {children}
    </li>
  );
}
