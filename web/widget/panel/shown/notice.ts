import { useEffect } from "react";

import { tellHost } from "../host";
import type { PanelStore } from "../store";

/** Lets the launcher show that something waits for the visitor's word, beside what is unread. */
export function useNotice(store: PanelStore, waits: boolean): void {
  const unread = store.unread();
  useEffect(() => {
    if (!waits) return;
    // After the panel has told what is unread.
    const timer = setTimeout(() => tellHost({ kind: "unread", count: unread + 1 }));
    return () => {
      clearTimeout(timer);
      tellHost({ kind: "unread", count: unread });
    };
  }, [waits, unread]);
}
