import { useSyncExternalStore } from "react";

import { isoDay } from "../../shared/days";

const looked = 30_000; // milliseconds

function subscribe(listener: () => void): () => void {
  const timer = setInterval(listener, looked);
  return () => clearInterval(timer);
}

/** Returns the day of now as year-month-day, in the zone in which times are told; it changes at midnight. */
export function useToday(): string {
  return useSyncExternalStore(subscribe, () => isoDay(Date.now()));
}
