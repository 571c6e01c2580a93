import { useVirtualizer, type Range } from "@tanstack/react-virtual";
import type { RefObject } from "react";

/**
 * Lines come and go by so many at once: most frames of a scroll then change nothing but
 * the place, and what is painted already is not painted again for each single line.
 */
const block = 4;

/** The lines that are drawn for those in view: whole blocks of them, with some around. */
export function wholeBlocks({ startIndex, endIndex, overscan, count }: Range): number[] {
  const from = Math.floor(Math.max(0, startIndex - overscan) / block) * block;
  const to = Math.min(count, Math.ceil((endIndex + 1 + overscan) / block) * block);
  return Array.from({ length: Math.max(0, to - from) }, (_, i) => from + i);
}

/** The lines in view of a list of lines that are all of one height, and how to go to one. */
export function useVirtualLines(scroller: RefObject<HTMLElement | null>, count: number, height: number) {
  // The library hands out functions that change while their identity does not.
  // eslint-disable-next-line react-hooks/incompatible-library
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => height,
    overscan: block / 2,
    rangeExtractor: wholeBlocks,
    initialRect: { width: 0, height: 800 }, // until it is measured
  });
  return {
    drawn: virtual.getVirtualItems(),
    total: virtual.getTotalSize(),
    scrolling: virtual.isScrolling,
    goTo: (index: number) => virtual.scrollToIndex(index, { align: "auto" }),
  };
}
