import { useLayoutEffect, useRef, useState, type RefObject } from "react";

// How far from its end a list still counts as being read at its end, in pixels.
const near = 50;

interface Pinned {
  box: RefObject<HTMLDivElement | null>;
  onScroll: () => void;
  /** Goes to the end now. */
  toEnd: () => void;
  /** Something came while somebody reads further up. */
  below: boolean;
}

/**
 * Keeps the end of a scrolled list in view while it grows or its box changes
 * its size, unless somebody is reading further up. What grows is told by a
 * value that changes with it.
 */
export function usePinned(grows: string, enabled = true): Pinned {
  const box = useRef<HTMLDivElement>(null);
  // What the list was when its reader left the end; null while they are there.
  const [leftAt, setLeftAt] = useState<string | null>(null);
  const follows = enabled && leftAt === null;

  const toEnd = () => {
    const element = box.current;
    if (element) element.scrollTop = element.scrollHeight;
  };
  const onScroll = () => {
    const element = box.current;
    if (!element) return;
    const atEnd = element.scrollHeight - element.scrollTop - element.clientHeight < near;
    setLeftAt(atEnd ? null : (leftAt ?? grows));
  };

  useLayoutEffect(() => {
    const element = box.current;
    if (!element || !follows) return;
    element.scrollTop = element.scrollHeight;
    const observer = new ResizeObserver(() => {
      element.scrollTop = element.scrollHeight;
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, [grows, follows]);

  return { box, onScroll, toEnd, below: enabled && leftAt !== null && leftAt !== grows };
}
