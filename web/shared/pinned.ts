import { useLayoutEffect, useRef, useState, type RefObject } from "react";

// How far from its end a list still counts as being read at its end, in pixels.
const near = 50;

interface Pinned {
  box: RefObject<HTMLDivElement | null>;
  onScroll: () => void;
  /** Goes to the end now. */
  toEnd: () => void;
  /** Call before drawing more above: what is being read then stays where it is. */
  holdStill: () => void;
  /** Somebody reads further up. */
  reading: boolean;
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
  const heightBefore = useRef(0);
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

  const holdStill = () => {
    heightBefore.current = box.current?.scrollHeight ?? 0;
  };
  useLayoutEffect(() => {
    const element = box.current;
    if (element && heightBefore.current > 0) element.scrollTop += element.scrollHeight - heightBefore.current;
    heightBefore.current = 0;
  });

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

  const reading = enabled && leftAt !== null;
  return { box, onScroll, toEnd, holdStill, reading, below: reading && leftAt !== grows };
}
