import { t } from "@lingui/core/macro";

import { dayNext, sameDay, timeOfDay } from "../../shared/format";
import type { HoursStatus } from "../../shared/types";

/** Says how hours stand, in their own zone; without any it is open around the clock. */
export function hoursWords(status: HoursStatus | undefined, now: number): string {
  if (!status) return t`open around the clock`;
  const { open, until, zone } = status;
  if (!until) return open ? t`open now, around the clock` : t`closed, never opens`;
  const clock = timeOfDay(until, zone);
  const when = sameDay(until, now, zone) ? clock : `${dayNext(until, now, zone)} ${clock}`;
  return open ? t`open now, until ${when}` : t`closed, opens ${when}`;
}
