import { useVirtualizer } from "@tanstack/react-virtual";
import type { RefObject } from "react";

/** The lines in view of a list of lines that are all of one height, and how to go to one. */
export function useVirtualLines(scroller: RefObject<HTMLElement | null>, count: number, height: number) {
  // The library hands out functions that change while their identity does not.
  // eslint-disable-next-line react-hooks/incompatible-library
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: 12,
    initialRect: { width: 0, height: 800 }, // until it is measured
  });
  return {
    drawn: virtual.getVirtualItems(),
    total: virtual.getTotalSize(),
    goTo: (index: number) => virtual.scrollToIndex(index, { align: "auto" }),
  };
}
