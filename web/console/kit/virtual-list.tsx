import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef, type ReactNode } from "react";

interface Props<Item> {
  label: string;
  items: Item[];
  keyOf: (item: Item) => string;
  /** How high an item is likely to be, in pixels; it is measured when it is drawn. */
  height: number;
  draw: (item: Item, index: number) => ReactNode;
  /** Called when the end comes near: there may be more. */
  onEnd?: () => void;
}

/**
 * A list as long as it needs to be, of which only what is in view is drawn. It
 * scrolls within the nearest element that does.
 */
export function VirtualList<Item>({ label, items, keyOf, height, draw, onEnd }: Props<Item>) {
  const list = useRef<HTMLUListElement>(null);
  // The library hands out functions that change while their identity does not.
  // eslint-disable-next-line react-hooks/incompatible-library
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => scrollerOf(list.current),
    estimateSize: () => height,
    getItemKey: (index) => keyOf(items[index] as Item),
    overscan: 8,
    initialRect: { width: 0, height: 800 }, // until it is measured
  });
  const drawn = virtual.getVirtualItems();
  const last = drawn.at(-1)?.index ?? -1;
  useEffect(() => {
    if (items.length > 0 && last >= items.length - 3) onEnd?.();
  }, [last, items.length, onEnd]);
  return (
    <ul
      ref={list}
      aria-label={label}
      style={{ position: "relative", blockSize: virtual.getTotalSize(), margin: 0, padding: 0 }}
    >
      {drawn.map(({ key, index, start }) => (
        <li
          key={key}
          data-index={index}
          ref={virtual.measureElement}
          aria-setsize={items.length}
          aria-posinset={index + 1}
          style={{
            position: "absolute",
            insetInline: 0,
            insetBlockStart: 0,
            transform: `translateY(${start}px)`,
          }}
        >
          {draw(items[index] as Item, index)}
        </li>
      ))}
    </ul>
  );
}

function scrollerOf(element: HTMLElement | null): HTMLElement | null {
  for (let at = element?.parentElement ?? null; at; at = at.parentElement) {
    if (/auto|scroll/.test(getComputedStyle(at).overflowY)) return at;
  }
  return document.documentElement;
}
