import dayjs from "dayjs";
import timezone from "dayjs/plugin/timezone";
import utc from "dayjs/plugin/utc";

dayjs.extend(utc);
dayjs.extend(timezone);

const form = "YYYY-MM-DDTHH:mm";

/** Returns what the clock on the wall shows in a zone, as fields for day and time take it. */
export function wallIn(at: number, zone: string): string {
  return dayjs(at).tz(zone).format(form);
}

/** Returns the moment at which it shows that; nothing for what is no time. One that is skipped is an hour later. */
export function momentIn(wall: string, zone: string): number | undefined {
  const at = dayjs.tz(wall, zone);
  return at.isValid() ? at.valueOf() : undefined;
}
